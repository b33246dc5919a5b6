import { Box3, Mesh, Sprite, Vector3, type BufferGeometry, type Object3D } from 'three';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { isKept } from '../three/ink';
import type { LayerKind, Layers } from '@cork-elbow/core/drawing';
import { forward } from '@cork-elbow/core/kinematics';
import { admit } from '@cork-elbow/core/admit';
import { tileDipper } from '@cork-elbow/demo';
import { Ink, type Palette } from '../three/ink';
import { layers3d } from './index';
import type { Stage, Standing } from './layer';

const colours = ['paper', 'body', 'dark', 'ink', 'soft', 'cork', 'glaze', 'bench', 'grid', 'alarm'];
const palette = Object.fromEntries(colours.map((name) => [name, '#888888'])) as unknown as Palette;
const made = admit(tileDipper());
if (!made.ok) throw new Error(made.faults[0].message);
const { rig, mechanism } = made;
const stage: Stage = { rig, mechanism, q: mechanism.home, ink: new Ink(palette), veil: new Ink(palette, 0.2) };
const [tool] = mechanism.tools;
const frame = forward(mechanism, mechanism.home).tools.get(tool.id)!;
const shown: Partial<Layers> = {
  ghosts: [mechanism.home],
  shell: {
    positions: Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]),
    triangles: Uint32Array.from([0, 1, 2]),
  } as Layers['shell'],
  payloads: new Map([[rig.payloads[0].id, frame]]),
  frames: true,
  trace: Float64Array.from([0, 0, 0, 0.1, 0, 0.2]),
  beats: Float64Array.from([0, 0, 0, 0.1, 0, 0.2]),
  hits: Float64Array.from([0, 0, 0.3, 0.1, 0, 0.2]),
  standing: {
    corners: [
      [0, 0, 0],
      [0.2, 0, 0],
      [0, 0.2, 0],
    ],
    at: [0.05, 0.05, 0],
    isSafe: true,
  },
  blur: { at: [0.1, 0.2, 0.3], shape: Float64Array.of(0.002, 0, 0, 0, 0.001, 0, 0, 0, 0.001), times: 10 },
  target: { at: [0.1, 0.2, 0.3] },
};
const stand = <K extends LayerKind>(kind: K): Standing<Layers[K]> =>
  layers3d.find((layer) => layer.kind === kind)!.stand() as unknown as Standing<Layers[K]>;
const geometries = (root: Object3D): BufferGeometry[] => {
  const list: BufferGeometry[] = [];
  root.traverse((o) => 'geometry' in o && !(o instanceof Sprite) && list.push(o.geometry as BufferGeometry));
  return list;
};

describe('layers of the 3D view', () => {
  beforeEach(() => void vi.spyOn(console, 'error'));
  afterEach(() => {
    expect(console.error).not.toHaveBeenCalled();
    vi.restoreAllMocks();
  });
  it('each kind is there once, and has something here to be shown with', () => {
    expect(layers3d.map(({ kind }) => kind).sort()).toEqual(Object.keys(shown).sort());
  });
  it.each(layers3d.map(({ kind }) => kind))('%s come and go, and leave nothing behind', (kind) => {
    const layer = stand(kind);
    layer.show(null, stage);
    expect(new Box3().setFromObject(layer.root).isEmpty()).toBe(true);
    layer.show(shown[kind]!, stage);
    const held = geometries(layer.root);
    expect(held.length).toBeGreaterThan(0);
    let freed = 0;
    for (const geometry of held) geometry.addEventListener('dispose', () => freed++);
    layer.show(null, stage);
    // A ghost keeps its model for the next one; the others give all back but bodies that are kept for all.
    const own = held.filter((geometry) => !isKept(geometry));
    if (kind === 'ghosts') expect(layer.root.visible).toBe(false);
    else expect([freed, layer.root.children.length]).toEqual([own.length, 0]);
  });
  it('are made anew only when what they show changes; frames also when the arm moves', () => {
    for (const { kind } of layers3d.filter((l) => l.kind !== 'ghosts')) {
      const layer = stand(kind);
      layer.show(shown[kind]!, stage);
      const [first] = layer.root.children;
      layer.show(shown[kind]!, { ...stage, q: mechanism.home.map((v) => v + 0.1) });
      expect(layer.root.children[0] === first, kind).toBe(kind !== 'frames');
    }
  });
  it('stand where they are said to be', () => {
    const centre = (kind: LayerKind): Vector3 => {
      const layer = stand(kind);
      layer.show(shown[kind]! as never, stage);
      return new Box3().setFromObject(layer.root).getCenter(new Vector3());
    };
    expect(centre('target').distanceTo(new Vector3(0.1, 0.2, 0.3))).toBeLessThan(1e-6);
    expect(centre('hits').distanceTo(new Vector3(0.05, 0, 0.25))).toBeLessThan(1e-6);
    expect(centre('trace').distanceTo(new Vector3(0.05, 0, 0.1))).toBeLessThan(1e-6);
  });
  it('show nothing, and say nothing, of a list without places', () => {
    for (const kind of ['trace', 'hits'] as const) {
      const layer = stand(kind);
      layer.show(new Float64Array(0), stage);
      expect(layer.root.children).toEqual([]);
    }
  });
  it('show as many ghosts as there are poses of this arm', () => {
    const layer = stand('ghosts');
    const visible = (): number => layer.root.children.filter((o) => o.visible).length;
    const bent = mechanism.home.map((v) => v + 0.2);
    for (const poses of [[mechanism.home, bent], [bent], [mechanism.home, bent, bent], []]) {
      layer.show(poses, stage);
      expect(visible()).toBe(poses.length);
    }
    layer.show([new Float64Array(2), bent], stage);
    expect(visible()).toBe(1);
    const meshes: Mesh[] = [];
    layer.root.traverse((o) => o instanceof Mesh && meshes.push(o));
    expect(meshes.length).toBeGreaterThan(0);
  });
});
