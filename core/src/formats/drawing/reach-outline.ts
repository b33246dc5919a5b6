/**
 * The region of the arm's own plane that the tool can reach, as quadrilaterals of a grid over shoulder and elbow, for
 * the side view. It does not depend on the pose, so it is computed once per mechanism and tool direction.
 */
import { axisOf, positionOf, STRIDE, vec3, type Vec3 } from '../../linear';
import { framesInto, kinematicsSpace, recogniseTurnAndPlanar, toolInto } from '../../kinematics';
import type { CompiledTool, Mechanism } from '../../mechanism';

export interface ReachRegion {
  /** Corners (distance from the turn axis along the plane, height along the turn axis; m), four by four. */
  readonly quads: Float64Array;
}

const GRID = 40;

/**
 * `direction`: the world direction of the tool's Z (kept while the plane faces world forward), or null for the tool
 * left as the wrist's home has it free to turn over its range. Null where the arm is of another kind.
 */
export function reachRegion(mechanism: Mechanism, tool: CompiledTool, direction: Vec3 | null): ReachRegion | null {
  const arm = recogniseTurnAndPlanar(mechanism, tool);
  if (!arm) return null;
  const [, s1, s2, s3] = arm.slots;
  const space = kinematicsSpace(mechanism);
  const q = mechanism.home.slice();
  q[arm.slots[0]] = 0;
  const frame = new Float64Array(STRIDE);
  const at = (slot: number, f: number): number => mechanism.lower[slot] + f * (mechanism.upper[slot] - mechanism.lower[slot]);
  if ([s1, s2, ...(s3 === undefined ? [] : [s3])].some((s) => !Number.isFinite(mechanism.upper[s] - mechanism.lower[s]))) return null;
  const place = (): readonly [number, number] => {
    framesInto(space, mechanism, q);
    toolInto(frame, 0, mechanism, space, tool);
    const d = vec3.sub(positionOf(frame), arm.c);
    return [vec3.dot(d, arm.e1), vec3.dot(d, arm.a0)];
  };
  /** Tool tip for shares of shoulder and elbow, or null where the wrist cannot hold the direction. */
  const points: (readonly [number, number] | null)[] = [];
  const wristShares = direction || s3 === undefined ? [null] : [0, 0.25, 0.5, 0.75, 1];
  const quads: number[] = [];
  for (const share of wristShares) {
    points.length = 0;
    for (let i = 0; i <= GRID; i++)
      for (let j = 0; j <= GRID; j++) {
        q[s1] = at(s1, i / GRID);
        q[s2] = at(s2, j / GRID);
        if (direction && s3 !== undefined) {
          q[s3] = 0;
          framesInto(space, mechanism, q);
          toolInto(frame, 0, mechanism, space, tool);
          const z = axisOf(frame, 2);
          const angle = (v: Vec3): number => Math.atan2(vec3.dot(v, arm.e1), vec3.dot(v, arm.a0));
          const turn = arm.signs[2] * (angle(direction) - angle(z));
          const fits = [turn, turn - 2 * Math.PI, turn + 2 * Math.PI].find((t) => t >= mechanism.lower[s3] && t <= mechanism.upper[s3]);
          if (fits === undefined) {
            points.push(null);
            continue;
          }
          q[s3] = fits;
        } else if (share !== null) q[s3] = at(s3, share);
        points.push(place());
      }
    for (let i = 0; i < GRID; i++)
      for (let j = 0; j < GRID; j++) {
        const k = i * (GRID + 1) + j;
        const corners = [points[k], points[k + 1], points[k + GRID + 2], points[k + GRID + 1]];
        if (corners.some((c) => c === null)) continue;
        const [a, b, c, d] = corners as (readonly [number, number])[];
        // All the same way round, so that overlapping ones unite under the non-zero rule.
        const area = (c[0] - a[0]) * (d[1] - b[1]) - (d[0] - b[0]) * (c[1] - a[1]);
        for (const p of area >= 0 ? [a, b, c, d] : [a, d, c, b]) quads.push(p[0], p[1]);
      }
  }
  return { quads: Float64Array.from(quads) };
}
