/** The bench top, what stands on it, and words for the directions. */
import {
  CanvasTexture,
  CircleGeometry,
  Group,
  LatheGeometry,
  LineBasicMaterial,
  LineSegments,
  BufferGeometry,
  Float32BufferAttribute,
  Mesh,
  MeshLambertMaterial,
  PlaneGeometry,
  Sprite,
  SpriteMaterial,
  Vector2,
} from 'three';
import { obstacleFrame } from '@cork-elbow/core/drawing';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Obstacle, Rig } from '@cork-elbow/core/rig';
import type { Ink } from './ink';
import { toMatrix } from './matrix';

const MM = 1e-3;

/** Name of the group of what stands around, one child each. */
export const THINGS = 'things';

export function surroundings(rig: Rig, mechanism: Mechanism, ink: Ink, reach: number): Group {
  const group = new Group();
  const size = Math.max(0.5, reach * 1.25);
  const bench = new Mesh(
    new PlaneGeometry(size * 2.4, size * 2.4),
    new MeshLambertMaterial({ color: ink.palette.bench }),
  );
  bench.receiveShadow = true;
  bench.position.z = -0.0005;
  group.add(bench, gridLines(size, ink));
  group.add(word('forward', ink, [size * 0.93, 0, 0.006]), word('left', ink, [0, size * 0.93, 0.006]));
  const things = new Group();
  things.name = THINGS;
  group.add(things);
  for (const obstacle of rig.obstacles) {
    const body = obstacleBody(obstacle, ink);
    body.matrixAutoUpdate = false;
    body.matrix.copy(toMatrix(obstacleFrame(mechanism, obstacle)));
    things.add(body);
  }
  for (const spot of rig.spots) {
    const [x, y, z] = spot.xyzMm.map((v) => v * MM);
    const s = 0.007;
    const geometry = new BufferGeometry();
    geometry.setAttribute(
      'position',
      new Float32BufferAttribute([x - s, y, z, x + s, y, z, x, y - s, z, x, y + s, z, x, y, z - s, x, y, z + s], 3),
    );
    group.add(new LineSegments(geometry, ink.line(ink.palette.cork)));
  }
  return group;
}

function gridLines(size: number, ink: Ink): LineSegments {
  const step = size > 1.2 ? 0.1 : 0.05;
  const points: number[] = [];
  const n = Math.floor(size / step);
  for (let i = -n; i <= n; i++)
    points.push(i * step, -n * step, 0, i * step, n * step, 0, -n * step, i * step, 0, n * step, i * step, 0);
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new Float32BufferAttribute(points, 3));
  return new LineSegments(geometry, new LineBasicMaterial({ color: ink.palette.grid }));
}

/** A word in ink, lying where the direction points to. */
export function word(text: string, ink: Ink, at: [number, number, number]): Sprite {
  const canvas = document.createElement('canvas');
  canvas.width = 256;
  canvas.height = 64;
  const pen = canvas.getContext('2d');
  if (pen) {
    pen.font = 'italic 34px "Atkinson Hyperlegible Next Variable", sans-serif';
    pen.fillStyle = ink.palette.soft;
    pen.textAlign = 'center';
    pen.textBaseline = 'middle';
    pen.fillText(text, 128, 32);
  }
  const sprite = new Sprite(
    new SpriteMaterial({ map: new CanvasTexture(canvas), transparent: true, depthWrite: false }),
  );
  sprite.position.set(...at);
  sprite.scale.set(0.11, 0.0275, 1);
  return sprite;
}

function obstacleBody(obstacle: Obstacle, ink: Ink): Group {
  switch (obstacle.kind) {
    case 'box': {
      const [x, y, z] = obstacle.sizeMm;
      const group = new Group();
      const box = ink.box(x * MM, y * MM, z * MM);
      box.position.z = (z * MM) / 2;
      group.add(box);
      return group;
    }
    case 'plane': {
      const group = new Group();
      if (!obstacle.sizeMm) return group;
      const board = ink.box(obstacle.sizeMm[0] * MM, obstacle.sizeMm[1] * MM, 0.006);
      board.position.z = -0.003;
      group.add(board);
      return group;
    }
    case 'cylinder':
      return ink.rod(obstacle.radiusMm * MM, obstacle.radiusMm * MM, obstacle.heightMm * MM, ink.palette.cork, 56);
    case 'rack': {
      const [x, y, z] = obstacle.sizeMm.map((v) => v * MM);
      const group = new Group();
      const floor = ink.box(x, y, z * 0.3);
      floor.position.z = z * 0.15;
      group.add(floor);
      const pitch = x / (obstacle.slots + 1);
      for (let k = 0; k <= obstacle.slots; k++) {
        const wall = ink.box(0.0035, y, z);
        wall.position.set(-x / 2 + pitch * (k + 0.5), 0, z / 2);
        group.add(wall);
      }
      return group;
    }
    case 'jar': {
      const inner = obstacle.innerRadiusMm * MM;
      const wall = obstacle.wallMm * MM;
      const h = obstacle.heightMm * MM;
      const profile = [
        new Vector2(0, 0),
        new Vector2(inner + wall, 0),
        new Vector2(inner + wall, h),
        new Vector2(inner, h),
        new Vector2(inner, wall),
        new Vector2(0, wall),
      ];
      const geometry = new LatheGeometry(profile, 56);
      geometry.rotateX(Math.PI / 2);
      const group = ink.body(geometry, ink.palette.paper, { opacity: 0.42, edge: ink.palette.ink });
      if (obstacle.fillMm > 0) {
        const surface = new Mesh(new CircleGeometry(inner - 0.0005, 56), ink.face(ink.palette.glaze, 0.85));
        surface.position.z = obstacle.fillMm * MM;
        group.add(surface);
      }
      return group;
    }
  }
}
