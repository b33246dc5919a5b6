/**
 * How far off the tool may be at a pose for what its motors cannot tell apart, for slack, and for what a calibration left over; through the
 * tool's Jacobian. Steps, dead bands and slack are bounds, what a calibration leaves is a deviation: they are added up in the worst case and
 * as the root of the sum of squares apart. How far a joint gives way under the load that it bears is a bound too: what is set straight with
 * another load is off by it.
 */
import { calibrationOf, deadBandOf, driveMaps, fitCalibration, resolutionAt, type DriveMap } from '../actuators';
import { probeOf } from '../kinematics';
import { vec3, type Vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import type { Build, Hardware } from '../rig';
import type { Loading } from './loading';

export type ErrorKind = 'step' | 'dead-band' | 'slack' | 'calibration' | 'flex';
/** One cause at one joint. */
export interface ErrorPart {
  readonly slot: number;
  readonly kind: ErrorKind;
  /** By how much the joint may be off (its unit): at most, and as a deviation. */
  readonly most: number;
  readonly spread: number;
  /** What the deviation is at the tool (m). */
  readonly atTool: number;
}
export interface Accuracy {
  /** The greatest at the tool first. */
  readonly parts: readonly ErrorPart[];
  /** How far off the tool is at most (m), all causes at their worst in the worst senses; and as the root of the sum of squares. */
  readonly worst: number;
  readonly rss: number;
  /** Covariance of the deviations at the tool (m², world, row by row). */
  readonly scatter: Float64Array;
  /** Where the tool goes by what joints give way under their load (m, world). */
  readonly droop: Vec3;
  /** Slots of which no motor is known. */
  readonly unknown: readonly number[];
}

export function accuracyAt(
  rig: Hardware,
  mechanism: Mechanism,
  build: Build,
  tool: CompiledTool,
  q: Float64Array,
  loading: Loading | null = null,
): Accuracy {
  const probe = probeOf(mechanism, tool);
  probe.frameAt(q);
  const J = probe.jacobian();
  const column = (slot: number): Vec3 => {
    const unit = mechanism.siPerUnit[slot];
    return [J[6 * slot] * unit, J[6 * slot + 1] * unit, J[6 * slot + 2] * unit];
  };
  const maps = driveMaps(rig, mechanism, build);
  const found = maps.flatMap((map) => ofMotor(map, mechanism, build, q));
  for (const slot of tool.slots) {
    const slack = build.backlash[mechanism.slotIds[slot]]?.slack ?? 0;
    if (slack > 0) found.push({ slot, kind: 'slack', most: slack / 2, spread: slack / 2 });
  }
  let droop: Vec3 = [0, 0, 0];
  for (const { slot, gives } of loading ? givingWay(rig, mechanism, loading, q) : []) {
    if (!tool.slots.includes(slot)) continue;
    found.push({ slot, kind: 'flex', most: Math.abs(gives), spread: Math.abs(gives) });
    droop = vec3.add(droop, vec3.scale(column(slot), gives));
  }
  const parts = found
    .filter(({ slot, most }) => most > 0 && tool.slots.includes(slot))
    .map((part): ErrorPart => ({ ...part, atTool: part.spread * vec3.norm(column(part.slot)) }))
    .sort((a, b) => b.atTool - a.atTool);
  const scatter = new Float64Array(9);
  for (const { slot, spread } of parts) {
    const way = vec3.scale(column(slot), spread);
    for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) scatter[3 * i + j] += way[i] * way[j];
  }
  const ways = Array.from(tool.slots, (slot) =>
    vec3.scale(
      column(slot),
      parts.reduce((sum, part) => sum + (part.slot === slot ? part.most : 0), 0),
    ),
  ).filter((way) => vec3.norm(way) > 0);
  return {
    ...{ parts, scatter, droop },
    worst: farthest(ways),
    rss: Math.hypot(0, ...parts.map(({ atTool }) => atTool)),
    unknown: Array.from(tool.slots).filter((slot) => !maps.some(({ slots }) => slots.includes(slot))),
  };
}

/** How far joints of a known stiffness give way under what they bear (their unit), the way that it pulls them. */
function givingWay(
  { mechanism: { joints } }: Hardware,
  mechanism: Mechanism,
  loading: Loading,
  q: Float64Array,
): { readonly slot: number; readonly gives: number }[] {
  loading.rest(q);
  return joints.flatMap((joint) => {
    const slot = mechanism.slotOf.get(joint.id);
    const stiffness = 'stiffness' in joint ? joint.stiffness : undefined;
    return slot === undefined || !stiffness ? [] : [{ slot, gives: -loading.torques[slot] / stiffness }];
  });
}

type Found = Omit<ErrorPart, 'atTool'>;
/** What a motor leaves open at its joints. */
function ofMotor(map: DriveMap, mechanism: Mechanism, build: Build, q: Float64Array): Found[] {
  const steps = resolutionAt(map, mechanism, q);
  if (!steps) return [];
  const points = calibrationOf(build, map.drive.id);
  const fit = points && points.points.length > 2 ? fitCalibration(points) : null;
  const perDeg = Math.abs(map.native.perDeg);
  return map.slots.flatMap((slot, k): Found[] => {
    const bound = (kind: ErrorKind, natives: number): Found => {
      const most = (natives * steps[k]) / 2;
      return { slot, kind, most, spread: most };
    };
    // Of one joint a step moves so much; of a degree of the shaft so many steps.
    const left: Found[] = fit
      ? [
          {
            slot,
            kind: 'calibration',
            most: fit.worstDeg * perDeg * steps[k],
            spread: fit.rmsDeg * perDeg * steps[k],
          },
        ]
      : [];
    return [bound('step', 1), bound('dead-band', deadBandOf(map.drive)), ...left];
  });
}

/** The farthest (m) that a sum of these gets with any senses: exact up to a dozen of them, from above beyond. */
function farthest(ways: readonly Vec3[]): number {
  const [first, ...rest] = ways;
  if (!first) return 0;
  if (rest.length > 12) return ways.reduce((sum, way) => sum + vec3.norm(way), 0);
  let most = 0;
  for (let senses = 0; senses < 1 << rest.length; senses++) {
    const sum = rest.reduce((at, way, k) => vec3.add(at, vec3.scale(way, senses & (1 << k) ? 1 : -1)), first);
    most = Math.max(most, vec3.norm(sum));
  }
  return most;
}

/** A matrix L with L·Lᵀ of a symmetric one (Cholesky), row by row, where that is not of full rank: what a ball becomes that scatters so. */
export function spreadOf(scatter: Float64Array): Float64Array {
  const l = new Float64Array(9);
  for (let i = 0; i < 3; i++)
    for (let j = 0; j <= i; j++) {
      let sum = scatter[3 * i + j];
      for (let k = 0; k < j; k++) sum -= l[3 * i + k] * l[3 * j + k];
      if (i === j) l[3 * i + i] = Math.sqrt(Math.max(0, sum));
      else l[3 * i + j] = l[3 * j + j] > 1e-12 ? sum / l[3 * j + j] : 0;
    }
  return l;
}
