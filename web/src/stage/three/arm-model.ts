/**
 * A believable arm from the rig's measures alone: plated links, servo bodies at the joints, horns, a base on its feet,
 * tools with fingers. Each joint has a group that is placed by forward kinematics; nothing is posed here by hand.
 */
import { Group, Matrix4, Quaternion, Vector3, type Object3D } from 'three';
import { bodyRadius, jawOpening, limbJoints, ROD_MM } from '@cork-elbow/core/drawing';
import { forward } from '@cork-elbow/core/kinematics';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { isJaw, isMoving, treeOf, type Joint, type Rig, type Tool, type TreeDoc } from '@cork-elbow/core/rig';
import { buildBase } from './base-model';
import type { Ink } from './ink';
import { toMatrix } from './matrix';
import { rodsOf, type LiveRods } from './live-rods';
import { solid } from './solids';

const MM = 1e-3;
/** A plate's thickness and the gap that a servo fills, as shares of the body radius. */
const PLATE = 0.0028;

interface Fingers {
  tool: Tool;
  pair: [Object3D, Object3D];
}

export class ArmModel {
  readonly root = new Group();
  /** What stands still. */
  readonly base: Group;
  private readonly groups = new Map<string, Group>();
  private readonly toolGroups = new Map<string, Group>();
  private readonly fingers: Fingers[] = [];
  private readonly doc: TreeDoc;
  private readonly rods: LiveRods;

  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    private readonly ink: Ink,
  ) {
    this.doc = treeOf(rig.mechanism);
    const depth = new Map<string, number>();
    for (const id of mechanism.ids) {
      const joint = this.joint(id);
      depth.set(id, joint.parent === null ? 0 : depth.get(joint.parent)! + 1);
      const group = new Group();
      group.matrixAutoUpdate = false;
      group.userData.joint = id;
      this.groups.set(id, group);
      this.root.add(group);
    }
    if (mechanism.delta) this.buildDelta();
    else for (const id of mechanism.ids) this.buildJoint(this.joint(id), depth.get(id)!);
    for (const tool of rig.mechanism.tools)
      if (tool.mounted) this.buildTool(tool, tool.parent ? depth.get(tool.parent)! : 0);
    this.base = buildBase(rig, this.doc, mechanism, ink);
    this.root.add(this.base);
    this.rods = rodsOf(this.doc, mechanism, ink);
    this.root.add(this.rods.root);
  }

  /** Shows one limb alone, or all of them. */
  showLimb(limb: string | null): void {
    const shown = limbJoints(this.rig, this.mechanism, limb);
    for (const [id, group] of this.groups) group.visible = shown.has(id);
    for (const [id, group] of this.toolGroups)
      group.visible = !limb || id === limb || !this.mechanism.tools.some((t) => t.id === limb);
    this.rods.show(shown);
  }

  /** The joint whose group an object belongs to. */
  jointOf(object: Object3D | null): string | null {
    for (let at = object; at; at = at.parent) if (typeof at.userData.joint === 'string') return at.userData.joint;
    return null;
  }

  pose(q: Float64Array): void {
    const frames = forward(this.mechanism, q);
    const { joints, tools } = frames;
    this.rods.pose(frames);
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
    return this.doc.joints.find((j) => j.id === id)!;
  }
  private radius(id: string, depth: number): number {
    return bodyRadius(this.doc, id, depth);
  }

  private buildJoint(joint: Joint, depth: number): void {
    if (isJaw(joint) && !joint.link?.bodies?.length) return;
    const group = this.groups.get(joint.id)!;
    const r = this.radius(joint.id, depth);
    const axis = isMoving(joint) ? new Vector3(...joint.axis).normalize() : new Vector3(0, 0, 1);
    if (joint.type === 'prismatic') this.buildSlide(joint, axis, r);
    const bodies = joint.link?.bodies ?? [];
    if (bodies.length) {
      for (const body of bodies) group.add(solid(body, this.ink));
      return;
    }
    const ends = [
      ...this.doc.joints
        .filter((j) => j.parent === joint.id && !isJaw(j))
        .map((j) => ({
          at: new Vector3(...j.origin.xyzMm).multiplyScalar(MM),
          r: this.radius(j.id, depth + 1),
          child: j as Joint | null,
        })),
      ...this.doc.tools
        .filter((t) => t.mounted && t.parent === joint.id && !(t.grip && 'joint' in t.grip))
        .map((t) => ({ at: new Vector3(...t.origin.xyzMm).multiplyScalar(MM), r: r * 0.4, child: null })),
    ];
    for (const end of ends) {
      const length = end.at.length();
      if (length < 1e-4) continue;
      const along = end.at.clone().normalize();
      if (Math.abs(along.dot(axis)) > 0.9) this.buildTurret(group, along, axis, length, r, end.child);
      else this.buildLink(group, end.at, along, axis, r, end.r);
    }
    const parent = joint.parent ? this.joint(joint.parent) : null;
    if (isMoving(joint) && joint.type !== 'prismatic' && !parent?.link?.bodies?.length)
      this.buildServo(group, joint, axis, r, depth);
  }

  /** A carriage on a track that stays with what the slide hangs on; a thin one is a rod that moves. */
  private buildSlide(joint: Joint, axis: Vector3, r: number): void {
    const slot = this.mechanism.slotOf.get(joint.id);
    if (slot === undefined) return;
    const [low, high] = [this.mechanism.lower[slot], this.mechanism.upper[slot]];
    if (!Number.isFinite(high - low)) return;
    const own = this.groups.get(joint.id)!;
    if (r / MM < ROD_MM) {
      const rod = this.ink.rod(r * 0.7, r * 0.7, high - low + 0.02, undefined, 24);
      rod.quaternion.setFromUnitVectors(new Vector3(0, 0, 1), axis);
      rod.position.copy(axis).multiplyScalar(-(high - low + 0.02));
      own.add(rod);
      return;
    }
    const up = Math.abs(axis.z) < 0.7 ? new Vector3(0, 0, 1) : new Vector3(-1, 0, 0);
    const lie = frameOf(axis, up);
    const carriage = this.ink.box(2 * r, 1.7 * r, r * 0.34, this.ink.palette.cork);
    carriage.quaternion.copy(lie);
    carriage.position.copy(up).multiplyScalar(-r * 0.17);
    own.add(carriage);
    const track = new Group();
    const bar = this.ink.box(high - low + 2 * r, r, r * 0.36);
    bar.position.set((low + high) / 2, 0, -r * 0.52);
    const line = this.ink.box(high - low + 2 * r, r * 0.3, r * 0.1, this.ink.palette.dark);
    line.position.set((low + high) / 2, 0, -r * 0.34);
    track.add(bar, line);
    track.quaternion.copy(lie);
    const [x, y, z] = joint.origin.xyzMm;
    const holder = new Group();
    holder.position.set(x * MM, y * MM, z * MM);
    holder.rotation.set(...(joint.origin.rpyDeg.map((v) => (v * Math.PI) / 180) as [number, number, number]), 'ZYX');
    holder.add(track);
    this.carrier(joint.parent).add(holder);
  }

  /** Group of a joint, or one that stands with the base. */
  private carrier(id: string | null): Group {
    const group = id === null ? null : this.groups.get(id);
    if (group) return group;
    const fixed = new Group();
    fixed.matrixAutoUpdate = false;
    fixed.matrix.copy(toMatrix(this.mechanism.base));
    this.root.add(fixed);
    return fixed;
  }

  /** Upper arms turn with their motors; the platform shifts. Rods move on their own (see live-rods). */
  private buildDelta(): void {
    const { delta, slotIds, ids } = this.mechanism;
    if (!delta) return;
    for (const id of slotIds) {
      const group = this.groups.get(id)!;
      const arm = new Group();
      for (const side of [-1, 1]) {
        const plate = this.ink.plate(delta.upperArm, 0.013, 0.008, PLATE);
        plate.position.z = side * 0.006;
        arm.add(plate);
      }
      arm.quaternion.copy(frameOf(new Vector3(1, 0, 0), new Vector3(0, 1, 0)));
      const shaft = this.ink.rod(0.006, 0.006, 0.03, this.ink.palette.dark, 20);
      shaft.rotation.x = -Math.PI / 2;
      shaft.position.y = -0.015;
      group.add(arm, shaft);
    }
    const platform = this.groups.get(ids[delta.platform])!;
    const disc = this.ink.rod(delta.platformRadius * 0.86, delta.platformRadius * 0.86, 0.007, undefined, 6);
    disc.position.z = -0.0055;
    platform.add(disc);
    for (let i = 0; i < 3; i++) {
      const arm = this.ink.box(delta.platformRadius, 0.012, 0.007);
      arm.position.set((delta.cos[i] * delta.platformRadius) / 2, (delta.sin[i] * delta.platformRadius) / 2, -0.002);
      arm.rotation.z = Math.atan2(delta.sin[i], delta.cos[i]);
      platform.add(arm);
    }
    for (const tool of this.doc.tools) {
      if (!tool.mounted || tool.parent !== ids[delta.platform]) continue;
      const [x, y, z] = tool.origin.xyzMm.map((v) => v * MM);
      const pen = this.ink.rod(0.005, 0.0018, Math.max(0.004, Math.abs(z)), this.ink.palette.dark, 20);
      pen.rotation.x = z < 0 ? Math.PI : 0;
      pen.position.set(x, y, 0);
      platform.add(pen);
    }
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
    const jaw = tool.grip.joint;
    if (this.doc.joints.find((joint) => joint.id === jaw)?.link?.bodies?.length) return;
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
}

/** Rotation whose X is `along` (made perpendicular to `axis`) and whose Z is `axis`. */
export function frameOf(along: Vector3, axis: Vector3): Quaternion {
  const z = axis.clone().normalize();
  const x = along.clone().addScaledVector(z, -along.dot(z)).normalize();
  return new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(x, z.clone().cross(x), z));
}
