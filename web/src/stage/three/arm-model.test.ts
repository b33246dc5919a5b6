import fc from 'fast-check';
import { Box3, type Line, LineSegments, Mesh, Vector3, type BufferGeometry, type Object3D } from 'three';
import { describe, expect, it } from 'vitest';
import { demoRigs, heronGreeter, tileDipper } from '../../../../demo';
import { deltaForward } from '@cork-elbow/core/mechanism';
import { forward } from '@cork-elbow/core/kinematics';
import { compile, type Mechanism } from '@cork-elbow/core/mechanism';
import { presets, rigFromPreset } from '@cork-elbow/core/presets';
import { isJaw, type Obstacle, type Rig } from '@cork-elbow/core/rig';
import { ArmModel } from './arm-model';
import { Ink } from './ink';
import { frameMarks, limitArc } from './marks';
import { toMatrix } from './matrix';
import { surroundings, THINGS } from './surroundings';
import { between } from '../../../../core/src/units/between.testkit';

const ink = new Ink({
  ...{ paper: '#fff', body: '#eee', dark: '#555', ink: '#000', soft: '#444' },
  ...{ cork: '#b97', glaze: '#8ba', bench: '#edc', grid: '#dcb', alarm: '#a20' },
});
interface Arm {
  readonly name: string;
  readonly rig: Rig;
  readonly mechanism: Mechanism;
}
const arm = (name: string, rig: Rig): Arm => {
  const result = compile(rig.mechanism);
  if (!result.ok) throw new Error(result.faults[0].message);
  return { name, rig, mechanism: result.mechanism };
};
const arms: readonly Arm[] = [
  ...demoRigs().map(({ id, rig }) => arm(id, rig)),
  ...presets.map((preset) => {
    const made = rigFromPreset(preset, preset.name);
    if (!made.ok) throw new Error(made.faults[0].message);
    return arm(preset.id, made.value);
  }),
];
const anyArm = fc.constantFrom(...arms);
const shares = fc.array(between(0.02, 0.98), { minLength: 8, maxLength: 8 });
/** A pose inside the limits at which a delta's forearms meet. */
function poseAt({ mechanism }: Arm, f: readonly number[]): Float64Array {
  const q = mechanism.home.slice();
  for (let s = 0; s < mechanism.m; s++) {
    const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
    if (Number.isFinite(high - low)) q[s] = low + f[s % f.length] * (high - low);
  }
  return mechanism.delta && deltaForward(mechanism.delta, q).gap > 0 ? mechanism.home.slice() : q;
}
const meshes = (root: Object3D): Mesh[] => {
  const found: Mesh[] = [];
  root.traverse((o) => {
    if (o instanceof Mesh) found.push(o);
  });
  return found;
};
/** Every corner of what is drawn below an object, in the world. */
function corners(root: Object3D): Vector3[] {
  let top = root;
  while (top.parent) top = top.parent;
  top.updateMatrixWorld(true);
  return meshes(root).flatMap((mesh) => {
    const at = (mesh.geometry as BufferGeometry).getAttribute('position');
    return Array.from({ length: at.count }, (_, k) =>
      new Vector3().fromBufferAttribute(at as never, k).applyMatrix4(mesh.matrixWorld),
    );
  });
}

describe('the arm in space', () => {
  it('has every joint where forward kinematics puts it, at any pose of any kind of arm', () => {
    fc.assert(
      fc.property(anyArm, shares, (one, f) => {
        const model = new ArmModel(one.rig, one.mechanism, ink);
        const q = poseAt(one, f);
        model.pose(q);
        const { joints } = forward(one.mechanism, q);
        const groups = new Map<string, Object3D>();
        model.root.traverse((o) => {
          if (typeof o.userData.joint === 'string') groups.set(o.userData.joint, o);
        });
        expect([...groups.keys()].sort()).toEqual([...joints.keys()].sort());
        for (const [id, frame] of joints)
          toMatrix(frame).elements.forEach((v, k) =>
            expect(groups.get(id)!.matrixWorld.elements[k]).toBeCloseTo(v, 12),
          );
      }),
      { numRuns: 30 },
    );
  });
  it('is drawn with numbers only, and with a body for every kind of arm', () => {
    for (const one of arms) {
      const model = new ArmModel(one.rig, one.mechanism, ink);
      model.pose(one.mechanism.home);
      const all = corners(model.root);
      expect(all.length).toBeGreaterThan(100);
      expect([one.name, all.every((p) => Number.isFinite(p.x + p.y + p.z))]).toEqual([one.name, true]);
    }
  });
  it('stands on the bench: no base goes through it, and none hangs over it', () => {
    for (const one of arms) {
      const model = new ArmModel(one.rig, one.mechanism, ink);
      model.pose(one.mechanism.home);
      const low = Math.min(...corners(model.base).map((p) => p.z));
      const { xyzMm, rpyDeg } = one.rig.mechanism.base.mounting;
      // Upright bases at bench height: on it, by a millimetre or two.
      if (xyzMm[2] === 0 && rpyDeg.every((v) => v === 0) && Number.isFinite(low)) {
        expect([one.name, low > -0.002]).toEqual([one.name, true]);
        expect([one.name, low < 0.01]).toEqual([one.name, true]);
      }
    }
  });
  it('reaches from each joint to the next: a link ends where what it carries begins', () => {
    for (const one of arms) {
      const { rig, mechanism } = one;
      if (mechanism.delta || rig.mechanism.family !== 'tree') continue;
      const { joints } = rig.mechanism;
      const model = new ArmModel(rig, mechanism, ink);
      model.pose(mechanism.home);
      const frames = forward(mechanism, mechanism.home).joints;
      for (const joint of joints) {
        const parent = joints.find((j) => j.id === joint.parent);
        if (!parent || isJaw(joint) || isJaw(parent) || joint.type === 'prismatic') continue;
        // Solids of one's own may be as one likes.
        if (parent.link?.bodies?.length || Math.hypot(...joint.origin.xyzMm) < 1) continue;
        let own: Object3D | undefined;
        model.root.traverse((o) => {
          if (o.userData.joint === parent.id) own = o;
        });
        const frame = frames.get(joint.id)!;
        const at = new Vector3(frame[9], frame[10], frame[11]);
        const near = new Box3().setFromPoints(corners(own!)).distanceToPoint(at);
        expect([one.name, joint.id, near < 0.004]).toEqual([one.name, joint.id, true]);
      }
    }
  });
  it('keeps the forearms of a delta as long as they are, from knee to platform', () => {
    const delta = arms.find(({ mechanism }) => mechanism.delta)!;
    const { forearm } = delta.mechanism.delta!;
    fc.assert(
      fc.property(shares, (f) => {
        const model = new ArmModel(delta.rig, delta.mechanism, ink);
        model.pose(poseAt(delta, f));
        const long = model.root.children.flatMap((c) => c.children).filter((c) => c.scale.z !== 1);
        const lengths = long.map((rod) => rod.scale.z);
        // Two bars an arm; the rest are the short pieces across them.
        expect(lengths.filter((v) => Math.abs(v - forearm) < 1e-6)).toHaveLength(6);
      }),
      { numRuns: 15 },
    );
  });
  it('shows one limb alone, and all again', () => {
    const rig = heronGreeter();
    const one = arm('heron', rig);
    const model = new ArmModel(rig, one.mechanism, ink);
    const seen = (): string[] => {
      const ids: string[] = [];
      model.root.traverse((o) => {
        if (typeof o.userData.joint === 'string' && o.visible) ids.push(o.userData.joint);
      });
      return ids.sort();
    };
    const every = [...one.mechanism.ids].sort();
    const [tool] = one.mechanism.tools;
    model.showLimb(tool.id);
    for (const id of Array.from(tool.joint, (j) => one.mechanism.ids[j])) expect(seen()).toContain(id);
    expect(seen().length).toBeLessThan(every.length);
    model.showLimb(null);
    expect(seen()).toEqual(every);
  });
  it('tells whose a body is that was pointed at, and of what stands still nobody’s', () => {
    const one = arms.find(({ name }) => name === 'tile-dipper')!;
    const model = new ArmModel(one.rig, one.mechanism, ink);
    const names = new Set(meshes(model.root).map((mesh) => model.jointOf(mesh)));
    for (const id of ['turn', 'shoulder', 'elbow', 'wrist']) expect(names).toContain(id);
    for (const mesh of meshes(model.base)) expect(model.jointOf(mesh)).toBeNull();
    expect(model.jointOf(null)).toBeNull();
  });
  it('opens its fingers as far as the jaw says', () => {
    const one = arms.find(({ name }) => name === 'tile-dipper')!;
    const model = new ArmModel(one.rig, one.mechanism, ink);
    const slot = one.mechanism.slotOf.get('jaw')!;
    const lean = (value: number): number => {
      const q = one.mechanism.home.slice();
      q[slot] = value;
      model.pose(q);
      const angles: number[] = [];
      model.root.traverse((o) => {
        if (Math.abs(o.rotation.y) > 1e-9 && o.rotation.x === 0 && o.rotation.z === 0) angles.push(o.rotation.y);
      });
      return Math.max(...angles.map(Math.abs));
    };
    const values = Array.from({ length: 9 }, (_, k) => {
      const f = k / 8;
      return one.mechanism.lower[slot] * (1 - f) + one.mechanism.upper[slot] * f;
    });
    const leans = values.map(lean);
    expect(new Set(leans.map((v) => v.toFixed(6))).size).toBeGreaterThan(4);
  });
});

describe('what stands around, in space', () => {
  const base = tileDipper();
  const { mechanism } = arm('dipper', base);
  const at = { id: 'thing', name: 'thing', xyzMm: [120, -40, 30], rpyDeg: [0, 0, 0] };
  const sizes: readonly (readonly [object, [number, number, number]])[] = [
    [{ kind: 'box', sizeMm: [60, 80, 40] }, [60, 80, 40]],
    [{ kind: 'cylinder', radiusMm: 25, heightMm: 70 }, [50, 50, 70]],
    [{ kind: 'jar', innerRadiusMm: 30, wallMm: 4, heightMm: 90, fillMm: 50 }, [68, 68, 90]],
  ];
  it.each(sizes)('%j fills the space it says, standing on its foot', (shape, [x, y, z]) => {
    const rig = { ...base, spots: [], obstacles: [{ ...at, ...shape } as Obstacle] };
    const group = surroundings(rig, mechanism, ink, 0.4);
    const bodies = group.getObjectByName(THINGS)!.children;
    expect(bodies).toHaveLength(1);
    const box = new Box3().setFromPoints(corners(bodies[0]));
    const size = box.getSize(new Vector3()).multiplyScalar(1000);
    expect(Math.abs(size.x - x)).toBeLessThan(0.3);
    expect(Math.abs(size.y - y)).toBeLessThan(0.3);
    expect(size.z).toBeCloseTo(z, 4);
    expect(box.min.z * 1000).toBeCloseTo(30, 4);
    expect(box.getCenter(new Vector3()).x * 1000).toBeCloseTo(120, 0);
  });
  it('a plane without sizes has no board, with sizes one that ends at its height', () => {
    const bodiesOf = (more: object): Object3D[] => {
      const rig = { ...base, spots: [], obstacles: [{ ...at, kind: 'plane', ...more } as Obstacle] };
      return surroundings(rig, mechanism, ink, 0.4).getObjectByName(THINGS)!.children;
    };
    expect(corners(bodiesOf({})[0])).toHaveLength(0);
    const top = Math.max(...corners(bodiesOf({ sizeMm: [200, 100] })[0]).map((p) => p.z));
    expect(top * 1000).toBeCloseTo(30, 4);
  });
});

describe('marks beside the arm', () => {
  const one = arm('dipper', tileDipper());
  const { rig, mechanism } = one;
  const pointsOf = (o: Object3D): Vector3[] => {
    const position = ((o as Line).geometry as BufferGeometry).getAttribute('position');
    return Array.from({ length: position.count }, (_, k) => new Vector3().fromBufferAttribute(position as never, k));
  };
  it('the arc of limits lies round the joint in its plane and spans its range', () => {
    fc.assert(
      fc.property(shares, fc.constantFrom('turn', 'shoulder', 'elbow', 'wrist'), (f, id) => {
        const q = poseAt(one, f);
        const [arc, ticks] = limitArc(rig, mechanism, q, id, ink);
        const frame = forward(mechanism, q).joints.get(id)!;
        const centre = new Vector3(frame[9], frame[10], frame[11]);
        const list = pointsOf(arc).map((p) => p.sub(centre));
        const radius = list[0].length();
        for (const p of list) expect(p.length()).toBeCloseTo(radius, 6);
        const slot = mechanism.slotOf.get(id)!;
        const range = mechanism.upper[slot] - mechanism.lower[slot];
        let turned = 0;
        for (let k = 1; k < list.length; k++) turned += list[k - 1].angleTo(list[k]);
        expect(turned).toBeCloseTo(range, 3);
        // Its ends lie where what the joint carries would be at each limit, its mark where that is now.
        const carried = (value: number): Vector3 => {
          const moved = q.slice();
          moved[slot] = value;
          const { joints, tools } = forward(mechanism, moved);
          const child = mechanism.parent.indexOf(mechanism.index.get(id)!);
          const f = child >= 0 ? joints.get(mechanism.ids[child])! : tools.get('tongs')!;
          const way = new Vector3(f[9], f[10], f[11]).sub(centre);
          const own = joints.get(id)!;
          const axis = new Vector3(
            ...(rig.mechanism.joints.find((j) => j.id === id) as { axis: [number, number, number] }).axis,
          )
            .normalize()
            .transformDirection(toMatrix(own));
          return way.addScaledVector(axis, -way.dot(axis)).normalize();
        };
        if (id === 'turn') return; // what it carries stands on its axis
        const ends = pointsOf(ticks).map((p) => p.sub(centre).normalize());
        expect(ends[0].angleTo(carried(mechanism.lower[slot]))).toBeLessThan(1e-3);
        expect(ends[2].angleTo(carried(mechanism.upper[slot]))).toBeLessThan(1e-3);
        expect(ends[5].angleTo(carried(q[slot]))).toBeLessThan(1e-3);
      }),
      { numRuns: 30 },
    );
  });
  it('are none for what slides, what has no limits, and what is not there', () => {
    const loader = arms.find(({ name }) => name === 'kiln-shelf-loader')!;
    expect(limitArc(loader.rig, loader.mechanism, loader.mechanism.home, 'rail', ink)).toEqual([]);
    expect(limitArc(rig, mechanism, mechanism.home, 'nobody', ink)).toEqual([]);
  });
  it('frames are three equal lines from where they stand, with forward, left and up', () => {
    const loader = arms.find(({ name }) => name === 'kiln-shelf-loader')!;
    const shown = frameMarks(loader.rig, loader.mechanism, loader.mechanism.home, ink);
    const lines = shown.filter((o) => o instanceof LineSegments);
    const mounted = loader.mechanism.tools.filter((t) => t.mounted).length;
    expect(lines).toHaveLength(loader.rig.frames.length + mounted);
    expect(shown.length).toBe(lines.length * 4);
    for (const line of lines) {
      const [a, x, b, y, c, z] = pointsOf(line);
      const [u, v, w] = [x.clone().sub(a), y.clone().sub(b), z.clone().sub(c)];
      expect(a.distanceTo(b) + b.distanceTo(c)).toBeCloseTo(0, 6);
      expect(u.length()).toBeCloseTo(v.length(), 6);
      expect(u.cross(v).normalize().distanceTo(w.normalize())).toBeLessThan(1e-5);
    }
  });
});
