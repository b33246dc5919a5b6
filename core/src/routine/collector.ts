/** A routine's events gathered into a plan: its blocks, steps, what is switched, held and asked, and what was noticed. */
import { driveMaps } from '../actuators';
import type { Finding, Place } from '../findings';
import { fromUnit, type Mechanism } from '../mechanism';
import type { Block } from '../motion';
import type { Build, Keep, Rig, Routine } from '../rig';
import { driveCheck, slowPlace } from './drive-checks';
import type { RoutineEvent, StepRef } from './events';
import { finding, findingOf, type RoutineSaying } from './findings';
import { structureFindings } from './structure';
import type { Problem } from './targets';

export interface TimedBlock {
  readonly block: Block;
  readonly startS: number;
  /** The step it belongs to (the first of several in one), its number from 0, and the routine that step stands in. */
  readonly stepId: string;
  readonly index: number;
  readonly routine: string;
}
export interface TimedStep {
  readonly stepId: string;
  readonly index: number;
  /** The routine it stands in, and how many calls deep. */
  readonly routine: string;
  readonly depth: number;
  readonly startS: number;
  readonly endS: number;
  /** What its ways keep of the tool's orientation, the least of them; none: it goes along no way of the tool. */
  readonly keep?: Keep;
}
export interface CarryEvent {
  readonly timeS: number;
  readonly tool: string;
  readonly payload: string | null;
}
/** The step that an event is of, its number from 0, and the routine that step stands in. */
export interface EventStep {
  readonly stepId: string;
  readonly index: number;
  readonly routine: string;
}
/** What is switched, counted, asked on the way. */
export type PlanEvent =
  | ({ readonly kind: 'output'; readonly timeS: number; readonly signal: string; readonly on: boolean } & EventStep)
  | ({
      readonly kind: 'input';
      readonly timeS: number;
      readonly signal: string;
      readonly on: boolean;
      readonly waitedS: number | null;
      /** Joints move meanwhile. */
      readonly beside?: true;
    } & EventStep)
  | { readonly kind: 'counter'; readonly timeS: number; readonly counter: string; readonly value: number }
  | ({
      readonly kind: 'power';
      readonly timeS: number;
      readonly joints: readonly string[];
      readonly on: boolean;
    } & EventStep)
  | ({
      readonly kind: 'swap';
      readonly timeS: number;
      readonly off: string | null;
      readonly on: string | null;
    } & EventStep);
export const eventStep = ({ step, index, routine }: StepRef): EventStep => ({ stepId: step.id, index, routine });

export interface Plan {
  readonly routineId: string;
  readonly start: Float64Array;
  readonly blocks: readonly TimedBlock[];
  readonly steps: readonly TimedStep[];
  readonly carries: readonly CarryEvent[];
  readonly events: readonly PlanEvent[];
  readonly durationS: number;
  /** From here to the end all comes again for ever; null where it ends. */
  readonly endlessFromS: number | null;
  readonly findings: readonly Finding[];
}

type Asking = Extract<RoutineEvent, { kind: 'read' | 'await' }>;
/** What happens, but for what is asked. */
export type Happening = Exclude<RoutineEvent, Asking>;

/** Times (s) this near are one. */
const NEAR = 1e-9;

export class Collector {
  private blocks: TimedBlock[] = [];
  private steps: TimedStep[] = [];
  private carries: CarryEvent[] = [];
  private events: PlanEvent[] = [];
  private findings: Finding[];
  private endlessFromS: number | null = null;
  /** When all that was gathered ends (s since the routine began), and where what is cut off next begins. */
  time = 0;
  private from = 0;
  private furthest = 0;
  private readonly held = new Map<string, string>();
  private readonly said = new Set<string>();
  private readonly check: ReturnType<typeof driveCheck>;
  private waiting: { block: Block; atS: number }[] = [];

  constructor(
    rig: Rig,
    private readonly mechanism: Mechanism,
    build: Build,
    private readonly routine: Routine,
    private start: Float64Array,
  ) {
    this.findings = structureFindings(rig, routine);
    this.check = driveCheck(mechanism, driveMaps(rig, mechanism, build));
    if (!routine.steps.some((step) => step.enabled && step.kind !== 'note')) {
      const place = { station: 'routine', routine: routine.id } as const;
      this.findings.push(finding('routine-empty', place, { routine: routine.name }));
    }
  }

  /** Share of the routine's own steps that have been reached. */
  get progress(): number {
    return Math.min(0.99, this.furthest / Math.max(1, this.routine.steps.length));
  }

  take(event: Happening): void {
    switch (event.kind) {
      case 'span': {
        const { ref, startS, endS, keep } = event;
        const { step, index, routine, depth } = ref;
        this.steps.push({ stepId: step.id, index, routine, depth, startS, endS, ...(keep && { keep }) });
        for (const { block, atS } of this.waiting.splice(0)) this.look(block, atS, ref);
        if (depth === 0) this.furthest = Math.max(this.furthest, index);
        break;
      }
      case 'block': {
        const { block, atS, ref } = event;
        this.waiting.push({ block, atS });
        this.blocks.push({ block, startS: atS, stepId: ref.step.id, index: ref.index, routine: ref.routine });
        this.time = atS + block.duration;
        break;
      }
      case 'carry': {
        const { atS, tool, payload } = event;
        this.carries.push({ timeS: atS, tool, payload });
        if (payload === null) this.held.delete(tool);
        else this.held.set(tool, payload);
        break;
      }
      case 'output': {
        const { kind, atS, signal, on, ref } = event;
        this.events.push({ kind, timeS: atS, signal, on, ...eventStep(ref) });
        break;
      }
      case 'counter':
        this.events.push({ kind: 'counter', timeS: event.atS, counter: event.counter, value: event.value });
        break;
      case 'power': {
        const { kind, atS, joints, on, ref } = event;
        this.events.push({ kind, timeS: atS, joints, on, ...eventStep(ref) });
        break;
      }
      case 'swap': {
        const { kind, atS, off, on, ref } = event;
        this.events.push({ kind, timeS: atS, off, on, ...eventStep(ref) });
        break;
      }
      case 'problem': {
        const { joint, pose } = event.problem;
        const said = this.isPastConfirmed(event.problem)
          ? ({ ...event.problem, code: 'target-over-confirmed' } as const)
          : event.problem;
        this.say(findingOf(said, this.place(event.ref, event.atS, { joint, pose })));
        break;
      }
      case 'endless': {
        const { atS, fromS, ref } = event;
        this.endlessFromS = fromS;
        this.say(finding('routine-endless', this.place(ref, fromS), { from: fromS, every: atS - fromS }));
      }
    }
  }
  /** An input was asked and answered; `waitedS`: for how long, null where it was only read. */
  asked({ atS, signal, ref }: Asking, on: boolean, waitedS: number | null): void {
    const beside = this.isBeside(atS) ? { beside: true as const } : {};
    this.events.push({
      kind: 'input',
      timeS: atS + (waitedS ?? 0),
      signal,
      on,
      waitedS,
      ...beside,
      ...eventStep(ref),
    });
  }

  /** Whether a moment lies inside motion that is not gathered yet: steps alongside others. */
  isBeside(atS: number): boolean {
    return atS > this.time + NEAR;
  }

  /** Whether it is past what was found of a joint on this build, and not past its limit. */
  private isPastConfirmed(problem: Problem): problem is Extract<Problem, { code: 'target-over-limit' }> {
    if (problem.code !== 'target-over-limit' || problem.joint === undefined) return false;
    const { mechanism } = this;
    const slot = mechanism.slotOf.get(problem.joint)!;
    const value = fromUnit(mechanism, slot, Number(problem.data.value));
    return value >= mechanism.lower[slot] && value <= mechanism.upper[slot];
  }

  /** What drives cannot follow, and where a way is slow. */
  private look(block: Block, atS: number, ref: StepRef): void {
    const { mechanism } = this;
    for (const { code, joint, drive, data } of this.check(block)) {
      const said = { code, data: { step: ref.index + 1, ...data } } as RoutineSaying;
      this.say(findingOf(said, this.place(ref, atS, { joint, drive })));
    }
    const slow = slowPlace(mechanism, block);
    if (!slow) return;
    const joint = mechanism.jointOfSlot[slow.slot];
    const where = this.place(ref, atS + slow.atS, { joint: mechanism.ids[joint] });
    const data = { step: ref.index + 1, joint: mechanism.names[joint], share: slow.share * 100 };
    this.say(finding('path-slows', where, data));
  }

  private place(
    { step, routine }: StepRef,
    timeS: number,
    extra: Partial<Extract<Place, { station: 'routine' }>> = {},
  ): Place {
    return { station: 'routine', routine, step: step.id, timeS, ...extra };
  }
  /** The same of the same step is said once, however often it is passed. */
  private say(made: Finding): void {
    const key = `${made.code} ${made.place.routine} ${made.place.step} ${made.place.joint ?? ''}`;
    if (this.said.has(key)) return;
    this.said.add(key);
    this.findings.push(made);
  }

  /** What was gathered since this was asked last, its times from where that ended. */
  cut(): Plan {
    const { from, start, blocks, routine } = this;
    const shift = <T extends { readonly timeS: number }>(list: readonly T[]): T[] =>
      list.map((each) => ({ ...each, timeS: each.timeS - from }));
    const plan: Plan = {
      ...{ routineId: routine.id, start, durationS: this.time - from, findings: this.findings },
      blocks: blocks.map((block) => ({ ...block, startS: block.startS - from })),
      steps: this.steps
        .map((step) => ({ ...step, startS: step.startS - from, endS: step.endS - from }))
        .sort((a, b) => a.startS - b.startS),
      ...{ carries: shift(this.carries), events: shift(this.events) },
      endlessFromS: this.endlessFromS === null ? null : this.endlessFromS - from,
    };
    this.start = blocks.at(-1)?.block.to ?? start;
    this.from = this.time;
    [this.blocks, this.steps, this.events, this.findings] = [[], [], [], []];
    this.carries = [...this.held].map(([tool, payload]) => ({ timeS: this.time, tool, payload }));
    return plan;
  }
}
