/** The base in three dimensions: plate on its feet and column, wheels, solids, mounting face, a delta's stand. */
import { Group, Vector3 } from 'three';
import { bodyRadius, standRadius } from '@cork-elbow/core/drawing';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Rig, TreeDoc } from '@cork-elbow/core/rig';
import type { Ink } from './ink';
import { toMatrix } from './matrix';
import { solid } from './solids';

const MM = 1e-3;
/** Height of the plate over the ground (m), and its thickness. */
const PLATE_AT = 0.007;
const PLATE = 0.006;

export function buildBase(rig: Rig, doc: TreeDoc, mechanism: Mechanism, ink: Ink): Group {
  const base = new Group();
  base.matrixAutoUpdate = false;
  base.matrix.copy(toMatrix(mechanism.base));
  const { feet, bodies = [], wheels = [] } = rig.mechanism.base;
  for (const body of bodies) base.add(solid(body, ink));
  for (const wheel of wheels) {
    const r = wheel.radiusMm * MM;
    const w = wheel.widthMm * MM;
    const disc = ink.rod(r, r, w, ink.palette.dark, 40);
    disc.rotation.x = Math.PI / 2;
    disc.position.set(wheel.xyzMm[0] * MM, wheel.xyzMm[1] * MM + w / 2, wheel.xyzMm[2] * MM);
    // A wheel that a joint turns is drawn with that joint.
    if (!wheel.joint) base.add(disc);
  }
  if (mechanism.delta) {
    base.add(...stand(mechanism, ink));
    return base;
  }
  const first = doc.joints.find((joint) => joint.parent === null);
  const sliding = first?.type === 'prismatic';
  if (feet.length > 2) {
    const xs = feet.map((f) => f[0] * MM);
    const ys = feet.map((f) => f[1] * MM);
    const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    const slab = ink.box(x1 - x0 + 0.016, y1 - y0 + 0.016, PLATE);
    slab.position.set((x0 + x1) / 2, (y0 + y1) / 2, PLATE_AT + PLATE / 2);
    base.add(slab);
    for (const [x, y] of feet) {
      const foot = ink.rod(0.009, 0.007, PLATE_AT, ink.palette.dark, 20);
      foot.position.set(x * MM, y * MM, 0);
      base.add(foot);
    }
  }
  // Fixed to a wall or ceiling: a piece of it behind the plate.
  if (mechanism.base[8] < 0.999) {
    const face = ink.box(0.34, 0.34, 0.008, ink.palette.bench);
    face.position.z = -0.005;
    base.add(face);
  }
  if (!first || sliding || bodies.length || wheels.length) {
    if (sliding && first) for (const post of railPosts(first.origin.xyzMm, mechanism, ink)) base.add(post);
    return base;
  }
  const [x, y, z] = first.origin.xyzMm.map((v) => v * MM);
  const r = bodyRadius(doc, first.id, 0);
  const height = Math.max(0.012, z);
  const low = feet.length > 2 ? PLATE_AT + PLATE : 0;
  const housing = ink.rod(r * 1.7, r * 1.3, Math.max(0.006, height - low), undefined, 48);
  housing.position.set(x, y, low);
  const ring = ink.rod(r * 1.4, r * 1.4, 0.004, ink.palette.dark, 48);
  ring.position.set(x, y, height - 0.005);
  base.add(housing, ring);
  return base;
}

/** Two feet under a level rail's ends. */
function railPosts(origin: readonly number[], mechanism: Mechanism, ink: Ink): Group[] {
  const [x, y, z] = origin.map((v) => v * MM);
  const axis = new Vector3(mechanism.local[2], mechanism.local[5], mechanism.local[8]);
  if (Math.abs(axis.z) > 0.3) return [];
  const height = z - 0.028 - PLATE_AT - PLATE;
  if (height < 0.004) return [];
  return [mechanism.lower[0], (mechanism.lower[0] + mechanism.upper[0]) / 2, mechanism.upper[0]].map((at) => {
    const post = ink.box(0.05, 0.05, height);
    post.position.set(x + axis.x * at, y + axis.y * at, PLATE_AT + PLATE + height / 2);
    return post;
  });
}

function stand({ delta, base }: Mechanism, ink: Ink): Group[] {
  if (!delta) return [];
  const r = standRadius(delta);
  const parts: Group[] = [];
  const height = base[11];
  const plate = ink.rod(r * 0.62, r * 0.62, 0.008, undefined, 6);
  plate.position.z = 0.014;
  parts.push(plate);
  for (let i = 0; i < 3; i++) {
    const angle = Math.atan2(delta.sin[i], delta.cos[i]);
    const out = delta.radius + delta.platformRadius;
    // Motor under the plate beside its arm, and a spoke out to a post between the arms.
    const motor = ink.box(0.024, 0.04, 0.022, ink.palette.dark);
    motor.position.set(delta.cos[i] * out * 0.9, delta.sin[i] * out * 0.9, 0.003);
    motor.rotation.z = angle;
    const holder = ink.box(Math.max(0.02, out), 0.02, 0.005);
    holder.position.set((delta.cos[i] * out) / 2, (delta.sin[i] * out) / 2, 0.0175);
    holder.rotation.z = angle;
    const spoke = ink.box(r, 0.016, 0.005);
    spoke.position.set((-delta.cos[i] * r) / 2, (-delta.sin[i] * r) / 2, 0.0175);
    spoke.rotation.z = angle;
    parts.push(motor, holder, spoke);
    if (height > 0.03 && base[8] > 0.999) {
      const post = ink.rod(0.006, 0.006, height + 0.024, undefined, 20);
      post.position.set(-delta.cos[i] * r, -delta.sin[i] * r, -height);
      const foot = ink.rod(0.016, 0.012, 0.006, ink.palette.dark, 24);
      foot.position.copy(post.position);
      parts.push(post, foot);
    }
  }
  return parts;
}
