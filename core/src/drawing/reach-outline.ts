/**
 * The region of the arm's own plane that the tool can reach, as quadrilaterals of a grid over shoulder and elbow, for
 * the side view. It does not depend on the pose, so it is computed once per mechanism and tool direction.
 */
import { axisOf, positionOf, STRIDE, vec3, type Vec3 } from '../linear';
import { framesInto, kinematicsSpace, recogniseTurnAndPlanar, toolInto } from '../kinematics';
import type { CompiledTool, Mechanism } from '../mechanism';
import { outlineOf } from './union';

export interface ReachRegion {
  /** Corners (distance from the turn axis along the plane, height along the turn axis; m), four by four. */
  readonly quads: Float64Array;
  /** The outline of all of them: closed loops of the same two measures, holes among them (even–odd rule). */
  readonly outline: readonly Float64Array[];
}

const GRID = 40;

/**
 * `direction`: the world direction of the tool's Z (kept while the plane faces world forward), or null for the tool
 * left as the wrist's home has it free to turn over its range. Null where the arm is of another kind.
 */
export function reachRegion(mechanism: Mechanism, tool: CompiledTool, direction: Vec3 | null): ReachRegion | null {
  const arm = recogniseTurnAndPlanar(mechanism, tool);
  if (!arm?.signs) return null;
  const { signs } = arm;
  const [, s1, s2, s3] = arm.slots;
  const space = kinematicsSpace(mechanism);
  const q = mechanism.home.slice();
  q[arm.slots[0]] = 0;
  const frame = new Float64Array(STRIDE);
  const at = (slot: number, f: number): number =>
    mechanism.lower[slot] + f * (mechanism.upper[slot] - mechanism.lower[slot]);
  if (
    [s1, s2, ...(s3 === undefined ? [] : [s3])].some((s) => !Number.isFinite(mechanism.upper[s] - mechanism.lower[s]))
  )
    return null;
  const place = (): readonly [number, number] => {
    framesInto(space, mechanism, q);
    toolInto(frame, 0, mechanism, space, tool);
    const d = vec3.sub(positionOf(frame), arm.c);
    return [vec3.dot(d, arm.e1), vec3.dot(d, arm.a0)];
  };
  const angle = (v: Vec3): number => Math.atan2(vec3.dot(v, arm.e1), vec3.dot(v, arm.a0));
  const frames = (): void => {
    framesInto(space, mechanism, q);
    toolInto(frame, 0, mechanism, space, tool);
  };

  /**
   * The stretch of elbow values over which the wrist can hold the direction, for the shoulder as it stands: the wrist's
   * value changes one for one with the elbow's, so its limits are limits of the elbow.
   */
  function elbowRange(wish: Vec3): readonly [number, number] | null {
    q[s2] = mechanism.lower[s2];
    q[s3] = 0;
    frames();
    const turn = signs[2] * (angle(wish) - angle(axisOf(frame, 2)));
    const slope = -signs[2] * signs[1];
    for (const k of [0, -1, 1, -2, 2]) {
      const w0 = turn + 2 * Math.PI * k;
      // w0 + slope·(e − lower) within the wrist's limits.
      const ends = [(mechanism.lower[s3] - w0) / slope, (mechanism.upper[s3] - w0) / slope].map(
        (d) => mechanism.lower[s2] + d,
      );
      const low = Math.max(mechanism.lower[s2], Math.min(...ends));
      const high = Math.min(mechanism.upper[s2], Math.max(...ends));
      if (low < high) {
        wristAt = (e) => w0 + slope * (e - mechanism.lower[s2]);
        return [low, high];
      }
    }
    return null;
  }
  let wristAt: (elbow: number) => number = () => 0;

  const quads: number[] = [];
  const wristShares = direction || s3 === undefined ? [null] : [0, 0.25, 0.5, 0.75, 1];
  for (const share of wristShares) {
    let before: (readonly [number, number])[] | null = null;
    for (let i = 0; i <= GRID; i++) {
      q[s1] = at(s1, i / GRID);
      const range =
        direction && s3 !== undefined ? elbowRange(direction) : ([mechanism.lower[s2], mechanism.upper[s2]] as const);
      if (!range) {
        before = null;
        continue;
      }
      const row = Array.from({ length: GRID + 1 }, (_, j) => {
        q[s2] = range[0] + (j / GRID) * (range[1] - range[0]);
        if (s3 !== undefined) q[s3] = direction ? wristAt(q[s2]) : at(s3, share!);
        return place();
      });
      if (before)
        for (let j = 0; j < GRID; j++) {
          const [a, b, c, d] = [before[j], before[j + 1], row[j + 1], row[j]];
          for (const p of [a, b, c, d]) quads.push(p[0], p[1]);
        }
      before = row;
    }
  }
  return { quads: Float64Array.from(quads), outline: outlineOf(quads) };
}
