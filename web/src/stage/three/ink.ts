/** Bodies in the drawing's style: paper faces with ink edges. */
import {
  BoxGeometry,
  BufferGeometry,
  Color,
  CylinderGeometry,
  EdgesGeometry,
  ExtrudeGeometry,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
  Shape,
  SphereGeometry,
} from 'three';

export interface Palette {
  readonly paper: string;
  readonly body: string;
  readonly dark: string;
  readonly ink: string;
  readonly soft: string;
  readonly cork: string;
  readonly glaze: string;
  readonly bench: string;
  readonly grid: string;
  readonly alarm: string;
}

/** Edges between faces that meet at more than this angle (°) are inked. */
const EDGE_ANGLE = 28;

/** A body by what it was made of, with its edges. */
interface Made {
  readonly faces: BufferGeometry;
  readonly edges: BufferGeometry;
}
/**
 * Bodies that were made before, by their measures: an edit changes few of an arm's. They outlive the objects that show them; one that
 * goes from here while something still shows it is handed to the graphics once more.
 */
const stock = new Map<string, Made>();
const MOST_KEPT = 400;
/** Whether a geometry is kept for others. */
export const isKept = (geometry: BufferGeometry): boolean => geometry.userData.kept === true;
function made(key: string | null, angle: number, make: () => BufferGeometry | Made): Made {
  const before = key === null ? undefined : stock.get(key);
  if (before && key !== null) {
    // The one that was asked for last goes last.
    stock.delete(key);
    stock.set(key, before);
    return before;
  }
  const body = make();
  const own = 'edges' in body ? body : { faces: body, edges: new EdgesGeometry(body, angle) };
  if (key === null) return own;
  own.faces.userData.kept = own.edges.userData.kept = true;
  stock.set(key, own);
  for (const [oldest, { faces: f, edges: e }] of stock) {
    if (stock.size <= MOST_KEPT) break;
    f.dispose();
    e.dispose();
    stock.delete(oldest);
  }
  return own;
}

export class Ink {
  private readonly faces = new Map<string, MeshLambertMaterial>();
  private readonly lines = new Map<string, LineBasicMaterial>();
  /** `veil`: how opaque everything is; below 1 for what is only imagined. */
  constructor(
    readonly palette: Palette,
    private readonly veil = 1,
  ) {}

  face(colour: string, own = 1): MeshLambertMaterial {
    const opacity = own * this.veil;
    const key = `${colour}/${opacity}`;
    let material = this.faces.get(key);
    if (!material) {
      material = new MeshLambertMaterial({
        color: new Color(colour),
        transparent: opacity < 1,
        opacity,
        depthWrite: opacity === 1,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      });
      this.faces.set(key, material);
    }
    return material;
  }
  line(colour = this.palette.ink): LineBasicMaterial {
    let material = this.lines.get(colour);
    if (!material)
      this.lines.set(
        colour,
        (material = new LineBasicMaterial({
          color: new Color(colour),
          transparent: this.veil < 1,
          opacity: Math.min(1, 2 * this.veil),
        })),
      );
    return material;
  }
  /** `key`: what the geometry is made of, where others of the very same may be; it is then left as it is. */
  body(
    geometry: BufferGeometry | (() => BufferGeometry | Made),
    colour = this.palette.body,
    { opacity = 1, edge = this.palette.ink, angle = EDGE_ANGLE, key = null as string | null } = {},
  ): Group {
    const { faces, edges } = made(key, angle, typeof geometry === 'function' ? geometry : () => geometry);
    const group = new Group();
    const mesh = new Mesh(faces, this.face(colour, opacity));
    mesh.castShadow = mesh.receiveShadow = opacity * this.veil === 1;
    group.add(mesh, new LineSegments(edges, this.line(edge)));
    return group;
  }
  box(x: number, y: number, z: number, colour?: string): Group {
    return this.body(() => new BoxGeometry(x, y, z), colour, { key: `box ${x} ${y} ${z}` });
  }
  /** Cylinder along +Z from z = 0. */
  rod(bottom: number, top: number, height: number, colour?: string, sides = 40): Group {
    const make = (): BufferGeometry => {
      const geometry = new CylinderGeometry(top, bottom, height, sides);
      geometry.rotateX(Math.PI / 2);
      return geometry.translate(0, 0, height / 2);
    };
    return this.body(make, colour, { key: `rod ${bottom} ${top} ${height} ${sides}` });
  }
  /** Ball round 0,0,0 with these diameters; smooth, so only its outline against the ground shows. */
  ball(x: number, y: number, z: number, colour?: string): Group {
    return this.body(() => new SphereGeometry(0.5, 40, 28).scale(x, y, z), colour, { key: `ball ${x} ${y} ${z}` });
  }
  /** Flat plate in the XY plane, centred in z: two discs and what lies between, with a row of lightening holes. */
  plate(length: number, ra: number, rb: number, thickness: number, colour?: string, holes = true): Group {
    const key = `plate ${length} ${ra} ${rb} ${thickness} ${holes}`;
    return this.body(() => plateOf(length, ra, rb, thickness, holes), colour, { key });
  }
  dispose(): void {
    this.faces.forEach((m) => m.dispose());
    this.lines.forEach((m) => m.dispose());
  }
}

/** Divisions of an arc of a plate's outline. */
const ARC = 24;
function plateOf(length: number, ra: number, rb: number, thickness: number, holes: boolean): Made {
  const lean = Math.acos(Math.max(-1, Math.min(1, (ra - rb) / length)));
  const shape = new Shape();
  shape.absarc(0, 0, ra, lean, 2 * Math.PI - lean, false);
  shape.absarc(length, 0, rb, -lean, lean, false);
  shape.closePath();
  const room = length - ra - rb;
  if (holes && room > 0.03) {
    const count = Math.max(1, Math.min(3, Math.floor(room / 0.028)));
    for (let i = 0; i < count; i++) {
      const f = (i + 0.5) / count;
      const x = ra + f * room;
      const w = (room / count) * 0.26;
      // With some of the plate left between one hole and the next, however wide the plate is.
      const r = Math.min((ra + (rb - ra) * (x / length)) * 0.42, (room / count) * 0.2);
      const hole = new Shape();
      hole.absarc(x - w, 0, r, Math.PI / 2, 1.5 * Math.PI, false);
      hole.absarc(x + w, 0, r * 0.94, -Math.PI / 2, Math.PI / 2, false);
      hole.closePath();
      shape.holes.push(hole);
    }
  }
  const faces = new ExtrudeGeometry(shape, { depth: thickness, bevelEnabled: false, curveSegments: ARC });
  return { faces: faces.translate(0, 0, -thickness / 2), edges: outlines(shape, thickness) };
}
/** A plate's outline and those of its holes, on both its sides, and where one turns sharply the edge from side to side. */
function outlines(shape: Shape, thickness: number): BufferGeometry {
  const at: number[] = [];
  const [low, high] = [-thickness / 2, thickness / 2];
  for (const points of [shape, ...shape.holes].map((own) => own.getPoints(ARC))) {
    const loop = points.filter((p, k) => p.distanceTo(points[(k + 1) % points.length]) > 1e-9);
    for (const [k, a] of loop.entries()) {
      const b = loop[(k + 1) % loop.length];
      const c = loop[(k + 2) % loop.length];
      for (const z of [low, high]) at.push(a.x, a.y, z, b.x, b.y, z);
      const turn = b.clone().sub(a).angleTo(c.clone().sub(b));
      if (turn > (EDGE_ANGLE * Math.PI) / 180) at.push(b.x, b.y, low, b.x, b.y, high);
    }
  }
  return new BufferGeometry().setAttribute('position', new Float32BufferAttribute(at, 3));
}
