/**
 * A believable arm from the rig's measures alone: plated links, servo bodies at the joints, horns, a base on its feet,
 * tools with fingers. Each joint has a group that is placed by forward kinematics; nothing is posed here by hand.
 */
import { Group, Matrix4, Quaternion, Vector3, type Object3D } from 'three';
import { bodyRadius, jawOpening } from '@cork-elbow/core/formats';
import { forward } from '@cork-elbow/core/kinematics';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { isMoving, type Joint, type Rig, type Tool } from '@cork-elbow/core/rig';
import type { Ink } from './ink';

const MM = 1e-3;
/** A plate's thickness and the gap that a servo fills, as shares of the body radius. */
const PLATE = 0.0028;

export const toMatrix = (f: ArrayLike<number>, o = 0): Matrix4 =>
  new Matrix4().set(
    f[o],
    f[o + 1],
    f[o + 2],
    f[o + 9],
    f[o + 3],
    f[o + 4],
    f[o + 5],
    f[o + 10],
    f[o + 6],
    f[o + 7],
    f[o + 8],
    f[o + 11],
    0,
    0,
    0,
    1,
  );

interface Fingers {
  tool: Tool;
  pair: [Object3D, Object3D];
}

export class ArmModel {
  readonly root = new Group();
  private readonly groups = new Map<string, Group>();
  private readonly toolGroups = new Map<string, Group>();
  private readonly fingers: Fingers[] = [];

  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    private readonly ink: Ink,
  ) {
    const depth = new Map<string, number>();
    for (const id of mechanism.ids) {
      const joint = this.joint(id);
      depth.set(id, joint.parent === null ? 0 : depth.get(joint.parent)! + 1);
      const group = new Group();
      group.matrixAutoUpdate = false;
      this.groups.set(id, group);
      this.root.add(group);
    }
    for (const id of mechanism.ids) this.buildJoint(this.joint(id), depth.get(id)!);
    for (const tool of rig.mechanism.tools)
      if (tool.mounted) this.buildTool(tool, tool.parent ? depth.get(tool.parent)! : 0);
    this.buildBase();
  }

  pose(q: Float64Array): void {
    const { joints, tools } = forward(this.mechanism, q);
    for (const [id, frame] of joints) this.groups.get(id)!.matrix.copy(toMatrix(frame));
    for (const [id, frame] of tools) this.toolGroups.get(id)?.matrix.copy(toMatrix(frame));
    for (const { tool, pair } of this.fingers) {
      const opening = jawOpening(this.mechanism, tool, q) ?? 0;
      const length = Math.max(0.02, Math.min(0.048, (this.toolLength(tool) ?? 0.08) * 0.6));
      // Fingers turn about their pivots so that their tips stand `opening` apart.
      const lean = Math.atan2(opening / 2 - 0.011, length);
      pair[0].rotation.y = lean;
      pair[1].rotation.y = -lean;
    }
    this.root.updateMatrixWorld(true);
  }

  private joint(id: string): Joint {
    return this.rig.mechanism.joints.find((j) => j.id === id)!;
  }
  private isJaw(joint: Joint): boolean {
    return isMoving(joint) && joint.role === 'jaw';
  }
  private radius(id: string, depth: number): number {
    return bodyRadius(this.rig.mechanism, id, depth);
  }

  private buildJoint(joint: Joint, depth: number): void {
    if (this.isJaw(joint)) return;
    const group = this.groups.get(joint.id)!;
    const r = this.radius(joint.id, depth);
    const axis = isMoving(joint) ? new Vector3(...joint.axis).normalize() : new Vector3(0, 0, 1);
    const ends = [
      ...this.rig.mechanism.joints
        .filter((j) => j.parent === joint.id && !this.isJaw(j))
        .map((j) => ({
          at: new Vector3(...j.origin.xyzMm).multiplyScalar(MM),
          r: this.radius(j.id, depth + 1),
          child: j as Joint | null,
        })),
      ...this.rig.mechanism.tools
        .filter((t) => t.mounted && t.parent === joint.id && !t.grip)
        .map((t) => ({ at: new Vector3(...t.origin.xyzMm).multiplyScalar(MM), r: r * 0.4, child: null })),
    ];
    for (const end of ends) {
      const length = end.at.length();
      if (length < 1e-4) continue;
      const along = end.at.clone().normalize();
      if (Math.abs(along.dot(axis)) > 0.9) this.buildTurret(group, along, axis, length, r, end.child);
      else this.buildLink(group, end.at, along, axis, r, end.r);
    }
    if (isMoving(joint) && joint.type !== 'prismatic') this.buildServo(group, joint, axis, r, depth);
  }

  /** A turning column: a disc on its bearing and two cheeks that carry the next joint. */
  private buildTurret(
    group: Group,
    along: Vector3,
    axis: Vector3,
    length: number,
    r: number,
    child: Joint | null,
  ): void {
    const turret = new Group();
    turret.quaternion.setFromUnitVectors(new Vector3(0, 0, 1), along);
    turret.add(this.ink.rod(r * 1.25, r * 1.25, Math.min(0.008, length * 0.2)));
    const childAxis = child && isMoving(child) ? new Vector3(...child.axis).normalize() : null;
    if (childAxis && Math.abs(childAxis.dot(axis)) < 0.5) {
      const gap = this.halfWidth(r) + PLATE * 1.6;
      const across = childAxis.clone().applyQuaternion(turret.quaternion.clone().invert());
      for (const side of [-1, 1]) {
        const cheek = this.ink.plate(length, r * 0.95, r * 0.78, PLATE * 1.3, undefined, false);
        cheek.quaternion.copy(frameOf(new Vector3(0, 0, 1), across));
        cheek.position.copy(across).multiplyScalar(side * gap);
        turret.add(cheek);
      }
      turret.add(this.servoBody(r * 0.62, length * 0.5, r));
    } else turret.add(this.ink.rod(r * 0.8, r * 0.7, length));
    group.add(turret);
  }

  private halfWidth(r: number): number {
    return Math.max(0.009, r * 0.72);
  }

  /** Two plates with spacers, from this joint to the next. */
  private buildLink(group: Group, to: Vector3, along: Vector3, axis: Vector3, ra: number, rb: number): void {
    const flat = to.clone().addScaledVector(axis, -to.dot(axis));
    const length = flat.length();
    const half = this.halfWidth(ra) - PLATE;
    const link = new Group();
    link.quaternion.copy(frameOf(along, axis));
    link.position.copy(axis).multiplyScalar(to.dot(axis) / 2);
    for (const side of [-1, 1]) {
      const plate = this.ink.plate(length, ra * 0.92, rb * 0.86, PLATE);
      plate.position.z = side * half;
      link.add(plate);
    }
    for (const f of [0.34, 0.7]) {
      const spacer = this.ink.rod(0.0032, 0.0032, 2 * half, this.ink.palette.dark, 12);
      spacer.position.set(length * f, ra * 0.52 * (1 - f) + rb * 0.4 * f, -half);
      const below = spacer.clone();
      below.position.y *= -1;
      link.add(spacer, below);
    }
    group.add(link);
  }

  /** The motor of a joint: its body sits with the parent, its horn turns with the joint. */
  private buildServo(
    group: Group,
    joint: Joint & { axis: readonly number[] },
    axis: Vector3,
    r: number,
    depth: number,
  ): void {
    const half = this.halfWidth(r);
    const horn = new Group();
    horn.quaternion.setFromUnitVectors(new Vector3(0, 0, 1), axis);
    if (depth > 0) {
      const disc = this.ink.rod(r * 0.5, r * 0.5, 0.003, this.ink.palette.paper, 28);
      disc.position.z = half + PLATE * 0.6;
      const screw = this.ink.rod(r * 0.13, r * 0.13, 0.0048, this.ink.palette.dark, 12);
      screw.position.z = half + PLATE * 0.6;
      const arm = this.ink.box(r * 1.15, r * 0.3, 0.0024, this.ink.palette.paper);
      arm.position.set(r * 0.35, 0, half + PLATE * 0.6 + 0.0016);
      const collar = this.ink.rod(r * 0.34, r * 0.34, 0.004, this.ink.palette.dark, 24);
      collar.position.z = -half - PLATE - 0.003;
      horn.add(disc, screw, arm, collar);
      group.add(horn);
    }
    const parent = joint.parent ? this.groups.get(joint.parent) : undefined;
    if (!parent || depth === 0) return;
    // Body beside the shaft, towards the parent joint, between its plates.
    const origin = new Vector3(...joint.origin.xyzMm).multiplyScalar(MM);
    if (origin.length() < r) return;
    const back = origin.clone().negate().normalize();
    const parentJoint = this.joint(joint.parent!);
    const parentAxis = isMoving(parentJoint) ? new Vector3(...parentJoint.axis).normalize() : new Vector3(0, 0, 1);
    if (Math.abs(back.dot(parentAxis)) > 0.9) return;
    const body = this.servoBody(r * 0.78, r * 1.5, 2 * half - PLATE * 2.4);
    const holder = new Group();
    holder.quaternion.copy(frameOf(back, axis.clone()));
    holder.position.copy(origin).addScaledVector(back, r * 0.32);
    body.position.set(0, 0, 0);
    holder.add(body);
    parent.add(holder);
  }

  /** Box with mounting ears: x along the body, z along the shaft. */
  private servoBody(width: number, length: number, height: number): Group {
    const group = new Group();
    const body = this.ink.box(length, width * 1.1, height, this.ink.palette.dark);
    body.position.x = length * 0.28;
    const ears = this.ink.box(length * 1.34, width * 0.9, height * 0.1, this.ink.palette.dark);
    ears.position.set(length * 0.28, 0, height * 0.22);
    group.add(body, ears);
    return group;
  }

  private toolLength(tool: Tool): number {
    return Math.hypot(...tool.origin.xyzMm) * MM;
  }

  private buildTool(tool: Tool, depth: number): void {
    const group = new Group();
    group.matrixAutoUpdate = false;
    this.root.add(group);
    this.toolGroups.set(tool.id, group);
    if (!tool.grip || !('joint' in tool.grip)) return;
    const r = tool.parent ? this.radius(tool.parent, depth) : 0.012;
    const length = this.toolLength(tool);
    const finger = Math.max(0.02, Math.min(0.048, length * 0.6));
    const palm = length - finger;
    // Wrist bracket, small servo and palm, back from the tool point along −Z.
    const bracket = this.ink.box(r * 1.1, this.halfWidth(r) * 1.7, Math.max(0.01, palm - 0.012));
    bracket.position.z = -finger - palm / 2 - 0.002;
    const motor = this.ink.box(r * 1.7, r * 0.9, 0.02, this.ink.palette.dark);
    motor.position.z = -finger - 0.016;
    const plate = this.ink.box(0.042, 0.024, 0.006);
    plate.position.z = -finger - 0.003;
    group.add(bracket, motor, plate);
    const make = (side: number): Object3D => {
      const pivot = new Group();
      pivot.position.set(side * 0.011, 0, -finger);
      const knuckle = this.ink.rod(0.005, 0.005, 0.02, this.ink.palette.dark, 20);
      knuckle.rotation.x = Math.PI / 2;
      knuckle.position.y = 0.01;
      const blade = this.ink.box(0.004, 0.016, finger * 0.98, this.ink.palette.paper);
      blade.position.set(side * 0.002, 0, finger * 0.49);
      const pad = this.ink.box(0.002, 0.014, finger * 0.3, this.ink.palette.cork);
      pad.position.set(side * 0.0005, 0, finger * 0.84);
      pivot.add(knuckle, blade, pad);
      group.add(pivot);
      return pivot;
    };
    this.fingers.push({ tool, pair: [make(1), make(-1)] });
  }

  private buildBase(): void {
    const base = new Group();
    base.matrixAutoUpdate = false;
    base.matrix.copy(toMatrix(this.mechanism.base));
    const first = this.rig.mechanism.joints.find((j) => j.parent === null);
    const height = first ? Math.max(0.012, first.origin.xyzMm[2] * MM) : 0.03;
    const at = first ? new Vector3(first.origin.xyzMm[0] * MM, first.origin.xyzMm[1] * MM, 0) : new Vector3();
    const r = first ? this.radius(first.id, 0) : 0.02;
    const { feet } = this.rig.mechanism.base;
    const plateAt = 0.007;
    if (feet.length) {
      const xs = feet.map((f) => f[0] * MM);
      const ys = feet.map((f) => f[1] * MM);
      const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
      const slab = this.ink.box(x1 - x0 + 0.016, y1 - y0 + 0.016, 0.006);
      slab.position.set((x0 + x1) / 2, (y0 + y1) / 2, plateAt + 0.003);
      base.add(slab);
      for (const [x, y] of feet) {
        const foot = this.ink.rod(0.009, 0.007, plateAt, this.ink.palette.dark, 20);
        foot.position.set(x * MM, y * MM, 0);
        base.add(foot);
      }
    }
    const shaft = Math.max(0.006, height - plateAt - 0.006);
    const housing = this.ink.rod(r * 1.7, r * 1.3, shaft, undefined, 48);
    housing.position.copy(at).setZ(plateAt + 0.006);
    const ring = this.ink.rod(r * 1.4, r * 1.4, 0.004, this.ink.palette.dark, 48);
    ring.position.copy(at).setZ(height - 0.005);
    base.add(housing, ring);
    this.root.add(base);
  }
}

/** Rotation whose X is `along` (made perpendicular to `axis`) and whose Z is `axis`. */
function frameOf(along: Vector3, axis: Vector3): Quaternion {
  const z = axis.clone().normalize();
  const x = along.clone().addScaledVector(z, -along.dot(z)).normalize();
  return new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(x, z.clone().cross(x), z));
}
