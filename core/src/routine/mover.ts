/** Makes the legs of steps that move: from what they aim at, by joints or along ways of the tool, at their pace. */
import { forward } from '../kinematics';
import { positionOf } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { lineSegment, type Block, type MovePace, type ProfileKind } from '../motion';
import type { Keep, Pace, Rig, StepOf, Target } from '../rig';
import { M_PER_MM } from '../units/convert';
import { blocksOf, type Leg } from './legs';
import type { MoveCache } from './move-cache';
import { jointLegProblems, overLimit } from './move-checks';
import type { RoutineSaying } from './findings';
import { before, goalOf, isProblem, solveGoal, type Goal, type Problem } from './targets';
import { circleWay, lineWay, toolWay, type PointWay } from './tool-way';

export type MoveStep = StepOf<'joint-move' | 'straight-move' | 'arc' | 'circle' | 'path' | 'approach' | 'retreat'>;
export type NewLeg = Omit<Leg, 'ref'>;
export interface Paced {
  readonly pace: MovePace & { readonly profile: ProfileKind };
  /** Most speed (m/s) of the tool's point. */
  readonly toolSpeed: number;
}

/** A step's pace under the speed that is set for all. */
export function pacedBy(pace: Pace, profile: ProfileKind, speed: number): Paced {
  if ('mmPerS' in pace) return { pace: { profile, speedShare: speed }, toolSpeed: pace.mmPerS * M_PER_MM * speed };
  if ('durationS' in pace) return { pace: { profile, durationS: pace.durationS / speed }, toolSpeed: Infinity };
  const { speedShare, accelShare } = pace;
  return { pace: { profile, speedShare: speedShare * speed, accelShare }, toolSpeed: Infinity };
}

const NO_TIME = 1e-9;

export class Mover {
  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    readonly cache: MoveCache,
  ) {}

  /** The legs of a step from pose q, or why it cannot be done; `no`: the step's number, for people. */
  legsOf(
    step: MoveStep,
    tool: CompiledTool | undefined,
    q: Float64Array,
    paced: Paced,
    no: number,
  ): NewLeg[] | Problem {
    const legs: NewLeg[] = [];
    const keep = 'keep' in step ? step.keep : undefined;
    const goal = (target: Target, at = q): Goal | Problem =>
      goalOf(this.rig, this.mechanism, tool, target, at, no, keep);
    const blend = 'blendMm' in step && step.blendMm !== undefined ? step.blendMm * M_PER_MM : 0;
    /** Adds a leg, or says why it cannot be; whether it could. */
    const add = (made: NewLeg | Problem): Problem | null => {
      if (isProblem(made)) return made;
      legs.push(made);
      return null;
    };
    const at = (): Float64Array => legs.at(-1)?.to ?? q;
    let problem: Problem | null = null;
    if (step.kind === 'joint-move') {
      const found = goal(step.target);
      problem = isProblem(found) ? found : add(this.jointLeg(tool, found, at(), paced, no, blend, step.arrive));
    } else if (!tool) problem = { code: 'path-no-tool', data: { step: no } };
    else if (step.kind === 'straight-move') {
      const found = goal(step.target);
      problem = isProblem(found) ? found : add(this.straightLeg(tool, found, at(), paced, no, blend, keep));
    } else if (step.kind === 'arc' || step.kind === 'circle') {
      const via = goal(step.via);
      const end = goal(step.kind === 'arc' ? step.target : step.second);
      if (isProblem(via)) problem = via;
      else if (isProblem(end)) problem = end;
      else {
        const round = step.kind === 'circle';
        const start = forward(this.mechanism, q).tools.get(tool.id)!;
        const way = circleWay(
          positionOf(start),
          positionOf(via.frame()),
          positionOf(end.frame()),
          round ? step.turns : 0,
        );
        const back: Goal = { q, frame: () => start, least: 'turn' };
        problem = way
          ? add(this.wayLeg(tool, round ? back : end, way, at(), paced, no, blend, keep))
          : { code: 'arc-flat', data: { step: no } };
      }
    } else if (step.kind === 'path') {
      for (const [k, target] of step.through.entries()) {
        const found = goal(target, at());
        const last = k === step.through.length - 1;
        problem = isProblem(found)
          ? found
          : add(this.straightLeg(tool, found, at(), paced, no, last ? 0 : blend, keep));
        if (problem) break;
      }
    } else if (step.kind === 'approach') {
      const found = goal(step.target);
      if (isProblem(found)) problem = found;
      else {
        const above = before(found, step.distanceMm * M_PER_MM);
        problem = add(this.jointLeg(tool, above, at(), paced, no, 0));
        const toolSpeed = Math.min(paced.toolSpeed, (step.lastMmPerS ?? Infinity) * M_PER_MM);
        problem ??= add(this.straightLeg(tool, found, at(), { ...paced, toolSpeed }, no, 0, keep));
      }
    } else {
      const shift = { xyzMm: [0, 0, -step.distanceMm] as [number, number, number], along: 'tool' as const };
      const found = goal({ shift });
      problem = isProblem(found) ? found : add(this.straightLeg(tool, found, at(), paced, no, 0, keep));
    }
    return problem ?? legs;
  }

  jointLeg(
    tool: CompiledTool | undefined,
    goal: Goal,
    from: Float64Array,
    paced: Paced,
    no: number,
    blend: number,
    arrive?: 'own-pace',
  ): NewLeg | Problem {
    const solved = solveGoal(this.mechanism, tool, goal, from, no);
    if (isProblem(solved)) return solved;
    const { q: to } = solved;
    const wrong = jointLegProblems(this.mechanism, from, to, no);
    if (wrong) return wrong;
    return this.leg(lineSegment(from, to), from, to, tool, paced, blend, arrive === 'own-pace', 'line');
  }

  straightLeg(
    tool: CompiledTool,
    goal: Goal,
    from: Float64Array,
    paced: Paced,
    no: number,
    blend: number,
    keep?: Keep,
  ): NewLeg | Problem {
    const start = positionOf(forward(this.mechanism, from).tools.get(tool.id)!);
    return this.wayLeg(tool, goal, lineWay(start, positionOf(goal.frame())), from, paced, no, blend, keep);
  }

  private wayLeg(
    tool: CompiledTool,
    goal: Goal,
    point: PointWay,
    from: Float64Array,
    paced: Paced,
    no: number,
    blend: number,
    keep: Keep | undefined,
  ): NewLeg | Problem {
    if (goal.q) {
      const over = overLimit(this.mechanism, goal.q, no);
      if (over) return over;
    }
    const { q, least } = goal;
    const frame = goal.frame();
    const key = `way ${tool.id} ${from.join()} ${q?.join() ?? ''} ${frame.join()} ${least} ${keep ?? ''} ${point.at(0.5).join()} ${point.length}`;
    const way = this.cache.way(key, () => toolWay(this.mechanism, tool, from, { frame, q, least }, point, keep));
    if (!way.ok) return { code: way.code, data: { step: no, share: way.share * 100, ...way.data } } as RoutineSaying;
    return {
      ...this.leg({ kind: 'spline', spline: way.spline }, from, way.to, tool, paced, blend, false, key),
      keep: way.keep,
    };
  }

  private leg(
    segment: Leg['segment'],
    from: Float64Array,
    to: Float64Array,
    tool: CompiledTool | undefined,
    { pace, toolSpeed }: Paced,
    blend: number,
    ownPace: boolean,
    what: string,
  ): NewLeg {
    const key = `${what} ${from.join()} ${to.join()} ${tool?.id} ${pace.profile} ${pace.speedShare} ${pace.accelShare} ${pace.durationS} ${toolSpeed} ${ownPace} ${blend}`;
    return { segment, from, to, tool, pace, toolSpeed, ownPace, blend, key };
  }

  /** A wished duration shared out over the legs of one step, by what each takes at least. */
  shareOut(legs: readonly Leg[], wish: number): Leg[] {
    const full = legs.map((leg) => ({ ...leg, pace: { profile: leg.pace.profile }, key: `${leg.key} full` }));
    const times = full.map((leg) => this.blocks([leg]).blocks[0]?.block.duration ?? 0);
    const sum = times.reduce((a, b) => a + b, 0);
    return legs.map((leg, k) => {
      const durationS = sum > 0 ? (wish * times[k]) / sum : wish;
      return {
        ...leg,
        pace: { ...leg.pace, durationS: Math.max(NO_TIME, durationS) },
        key: `${leg.key} ${durationS}`,
      };
    });
  }

  blocks(legs: readonly Leg[]): ReturnType<typeof blocksOf> {
    return blocksOf(this.mechanism, legs, (key, make) => this.cache.block(key, make));
  }
}

/** The slots that any of the blocks moves. */
export const slotsMoved = (blocks: readonly { block: Block }[]): Set<number> =>
  new Set(
    blocks.flatMap(({ block }) =>
      [...block.from.keys()].filter((s) => block.kind === 'spinning' || movesSlot(block, s)),
    ),
  );

/** Whether a block moves a slot at all; a path that comes back counts. */
function movesSlot(block: Block, slot: number): boolean {
  switch (block.kind) {
    case 'hold':
      return false;
    case 'path':
      return block.path.pieces.some((piece) =>
        'quintic' in piece
          ? piece.quintic.subarray(6 * slot + 1, 6 * slot + 6).some((c) => c !== 0)
          : piece.segment.kind === 'line'
            ? piece.segment.delta[slot] !== 0
            : spans(piece.segment.spline.value, piece.segment.spline.m, slot),
      );
    case 'together':
      return block.tracks.some((t) => t.slots.includes(slot));
    case 'spinning':
      return block.spins.some((spin) => spin.slot === slot) || movesSlot(block.base, slot);
    default:
      return block.from[slot] !== block.to[slot];
  }
}
const spans = (value: Float64Array, m: number, slot: number): boolean => {
  for (let k = slot; k < value.length; k += m) if (value[k] !== value[slot]) return true;
  return false;
};
