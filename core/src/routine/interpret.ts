/**
 * The one interpreter of routines: says what happens, moment by moment, and asks for inputs where a step needs one. Plan, preview,
 * generated commands and live run all drive this same loop.
 */
import { forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Block } from '../motion';
import type { Rig, Routine, StepOf } from '../rig';
import { M_PER_MM } from '../units/convert';
import type { InputValue, Run, StepRef } from './events';
import { MoveCache } from './move-cache';
import { Mover, slotsMoved } from './mover';
import { Performer } from './performer';
import { placesOf } from './places';
import { structureOf, type Structure } from './structure';
import { before, isProblem, placeGoal, type Problem } from './targets';

/** More steps than this are not run through. */
export const MOST_STEPS = 200_000;
/** Routines that call routines, at most so deep. */
export const DEEPEST = 32;
const NO_TIME = 1e-9;
/** The tool's point is still where it was within this (m). */
const NEAR = 1e-6;

export interface InterpretOptions {
  /** Moves worked out before on the same mechanism. */
  readonly cache?: MoveCache;
  /** What comes again for ever is gone through until then (s); left out: once. */
  readonly horizonS?: number;
  /** When inputs change for the last time (s): before, nothing is taken to come again for ever. */
  readonly settledS?: number;
  /**
   * Inputs are really read as it goes: none is known beforehand, so that what has asked one on the way never counts as coming again, and
   * a wait that was in vain has already taken its time.
   */
  readonly live?: boolean;
}

/** How a part ended: at its end, by a return, or with the whole routine. */
export type Outcome = 'done' | 'returned' | 'over';

export function* interpret(
  rig: Rig,
  mechanism: Mechanism,
  routine: Routine,
  start: Float64Array,
  options: InterpretOptions = {},
): Run<Float64Array> {
  const mover = new Mover(rig, mechanism, options.cache ?? new MoveCache());
  const tools = mechanism.tools.filter((t) => t.mounted).map((t) => t.id);
  const run = new Interpreter(rig, mechanism, new Performer(rig, mechanism, mover, start, tools), options);
  yield* run.routine(routine, 0);
  return run.body.q;
}

/** A repeat under way. */
interface Loop {
  left: number;
  /** When its lap began (s). */
  began: number;
  /** How often inputs had been asked by then. */
  asked: number;
  /** For ever: states in which laps began, and when. */
  readonly seen: Map<string, number>;
}
/** Laps of a repeat for ever that are looked at for one that comes again. */
const MOST_LAPS = 24;

export interface Frame {
  readonly routine: Routine;
  readonly structure: Structure;
  readonly depth: number;
  /** Of repeats under way: passes left, and when this pass began. */
  readonly loops: Map<number, Loop>;
  /** When the same place was passed in the same state, and how often inputs had been asked then. */
  readonly seen: Map<string, number>;
  asked: number;
}

/** A frame in which a routine begins. */
export const newFrame = (routine: Routine, structure: Structure, depth: number, asked = 0): Frame => ({
  ...{ routine, structure, depth, asked },
  loops: new Map(),
  seen: new Map(),
});

export class Interpreter {
  private readonly counters = new Map<string, number>();
  private count = 0;
  /** How often the way has depended on an input that was really read. */
  private asked = 0;

  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    readonly body: Performer,
    private readonly options: InterpretOptions,
  ) {}

  /** One that does single steps, each as it comes: inputs are really read, and no counter is known. */
  static stepwise(
    rig: Rig,
    mechanism: Mechanism,
    start: Float64Array,
    cache: MoveCache = new MoveCache(),
  ): Interpreter {
    const tools = mechanism.tools.filter((t) => t.mounted).map((t) => t.id);
    const body = new Performer(rig, mechanism, new Mover(rig, mechanism, cache), start, tools);
    return new Interpreter(rig, mechanism, body, { live: true });
  }
  /** Another such one in just this state. */
  copy(): Interpreter {
    return new Interpreter(this.rig, this.mechanism, this.body.copy(), this.options);
  }

  /** Another one that begins where this one stands. */
  private fork(): Interpreter {
    const other = new Interpreter(this.rig, this.mechanism, this.body.fork(), this.options);
    for (const [counter, value] of this.counters) other.counters.set(counter, value);
    other.count = this.count;
    other.asked = this.asked;
    return other;
  }

  *routine(routine: Routine, depth: number): Run<Outcome> {
    const structure = structureOf(routine.steps);
    const frame = newFrame(routine, structure, depth, this.asked);
    const outcome = yield* this.range(frame, 0, routine.steps.length);
    yield* this.body.flush();
    return outcome === 'over' ? 'over' : 'done';
  }

  /** A part that ends with its moves done. */
  private *inside(frame: Frame, from: number, to: number): Run<Outcome> {
    const outcome = yield* this.range(frame, from, to);
    yield* this.body.flush();
    return outcome;
  }

  private *range(frame: Frame, from: number, to: number): Run<Outcome> {
    const { steps } = frame.routine;
    for (let pc = from; pc < to;) {
      const step = steps[pc];
      if (!frame.structure.enabled[pc]) {
        pc++;
        continue;
      }
      const ref: StepRef = { step, index: pc, routine: frame.routine.id, depth: frame.depth };
      if (++this.count > MOST_STEPS) {
        yield* this.body.problem(ref, { code: 'routine-too-long', data: { step: pc + 1, most: MOST_STEPS } });
        yield* this.body.flush();
        return 'over';
      }
      const next = yield* this.step(frame, ref, pc);
      if (typeof next === 'string') return next;
      if (next < from || next > to) {
        // Only steps alongside have ends that are not the routine's own.
        yield* this.body.problem(ref, { code: 'jump-out-of-alongside', data: { step: pc + 1 } });
        return 'done';
      }
      pc = next;
    }
    return 'done';
  }

  /** Does one step; where to go on, or how it all ended. */
  *step(frame: Frame, ref: StepRef, pc: number): Run<number | Outcome> {
    const { step } = ref;
    const { structure } = frame;
    switch (step.kind) {
      case 'joint-move':
      case 'straight-move':
      case 'arc':
      case 'circle':
      case 'path':
      case 'approach':
      case 'retreat':
        yield* this.body.move(ref, step, frame.routine.profile);
        return pc + 1;
      case 'grip':
        yield* this.body.grip(ref, step, frame.routine.profile);
        return pc + 1;
      case 'spin':
        yield* this.body.spin(ref, step);
        return pc + 1;
      case 'pattern':
        return (yield* this.pattern(frame, ref, step)) === 'over' ? 'over' : pc + 1;
      case 'wait':
        yield* this.body.flush();
        yield* this.body.pass(ref, step.durationS);
        return pc + 1;
      case 'wait-input': {
        yield* this.body.flush();
        const waited = yield {
          kind: 'await',
          atS: this.body.now,
          signal: step.signal,
          is: step.is,
          atMostS: step.timeoutS,
          ref,
        };
        const met = typeof waited === 'number';
        yield* this.body.pass(ref, met ? waited : this.options.live ? 0 : (step.timeoutS ?? 0));
        if (typeof step.otherwise !== 'string') this.depends();
        if (met || step.otherwise === 'go-on') return pc + 1;
        if (step.otherwise === 'stop') {
          yield* this.body.problem(ref, { code: 'wait-in-vain', data: { step: pc + 1 } });
          return 'over';
        }
        return yield* this.jump(frame, ref, pc, step.otherwise.jump);
      }
      case 'output':
        yield* this.body.flush();
        yield { kind: 'output', atS: this.body.now, signal: step.signal, on: step.on, ref };
        yield* this.body.mark(ref);
        return pc + 1;
      case 'hold':
      case 'let-go':
        yield* this.body.power(ref, step.joints, step.kind === 'hold');
        return pc + 1;
      case 'pick-up':
      case 'put-down':
        yield* this.body.flush();
        yield* this.body.carry(step.tool, step.kind === 'pick-up' ? step.payload : null);
        yield* this.body.mark(ref);
        return pc + 1;
      case 'swap-tool':
        yield* this.body.swap(ref, step);
        return pc + 1;
      case 'speed':
        this.body.speed = step.share;
        yield* this.body.mark(ref);
        return pc + 1;
      case 'marker':
      case 'group':
      case 'note':
        yield* this.body.mark(ref);
        return pc + 1;
      case 'jump':
        yield* this.body.mark(ref);
        return yield* this.jump(frame, ref, pc, step.to);
      case 'counter': {
        const value =
          'set' in step.change ? step.change.set : (this.counters.get(step.counter) ?? 0) + step.change.add;
        this.counters.set(step.counter, value);
        yield { kind: 'counter', atS: this.body.now, counter: step.counter, value };
        yield* this.body.mark(ref);
        return pc + 1;
      }
      case 'repeat':
        if (step.times === null) yield* this.body.flush();
        frame.loops.set(pc, {
          left: step.times ?? Infinity,
          began: this.body.now,
          asked: this.asked,
          // A lap that ends as the first one began comes again; one that does not may lead somewhere else yet.
          seen: new Map(step.times === null ? [[this.state(), this.body.now]] : []),
        });
        yield* this.body.mark(ref);
        return pc + 1;
      case 'if': {
        const holds = yield* this.holds(ref, step);
        yield* this.body.mark(ref);
        if (holds) return pc + 1;
        const beyond = structure.other[pc] >= 0 ? structure.other[pc] : structure.partner[pc];
        return beyond < 0 ? pc + 1 : beyond + 1;
      }
      case 'else': {
        // Met only after the steps of its `if` were done.
        const end = structure.other[pc] < 0 ? -1 : structure.partner[structure.other[pc]];
        return end < 0 ? pc + 1 : end + 1;
      }
      case 'end':
        return yield* this.end(frame, ref, pc);
      case 'call':
        return (yield* this.call(ref, step.routine)) === 'over' ? 'over' : pc + 1;
      case 'return':
        yield* this.body.flush();
        yield* this.body.mark(ref);
        return 'returned';
      case 'alongside':
        return yield* this.alongside(frame, ref, pc, step);
    }
  }

  // ── Order ───────────────────────────────────────────────────────────────────────────────────────────────────────

  private *holds(ref: StepRef, { when }: StepOf<'if'>): Run<boolean> {
    if ('signal' in when) {
      yield* this.body.flush();
      const on = yield { kind: 'read', atS: this.body.now, signal: when.signal, ref };
      this.depends();
      return (on === true) === when.is;
    }
    const value = this.counters.get(when.counter) ?? 0;
    return when.is === 'below' ? value < when.value : when.is === 'above' ? value > when.value : value === when.value;
  }

  /** What comes next depends on an input that was read: what was done before it may be done again, and is not done in vain. */
  private depends(): void {
    if (!this.options.live) return;
    this.asked++;
    this.count = 0;
  }

  private *jump(frame: Frame, ref: StepRef, pc: number, name: string): Run<number | Outcome> {
    const to = frame.structure.markers.get(name);
    // A marker that is missing is said before anything runs.
    if (to === undefined) return 'over';
    if (to > pc) return to;
    yield* this.body.flush();
    if (frame.asked !== this.asked) frame.seen.clear();
    frame.asked = this.asked;
    const key = `${pc}|${this.state()}`;
    const before = frame.seen.get(key);
    if (before !== undefined) {
      const over = yield* this.again(ref, before);
      if (over) return 'over';
    }
    frame.seen.set(key, this.body.now);
    return to;
  }

  /** All that decides what comes next, but for the place in the routine. */
  private state(): string {
    const { carried, speed, q } = this.body;
    return `${[...this.counters].join()}|${[...carried].join()}|${speed}|${[...q].map((v) => v.toFixed(6)).join()}`;
  }

  /** The same state as at `since`: whether that ends it. */
  private *again(ref: StepRef, since: number): Run<boolean> {
    if (this.body.now - since < NO_TIME) {
      yield* this.body.problem(ref, { code: 'loop-without-wait', data: { step: ref.index + 1 } });
      return true;
    }
    if (this.body.now < Math.max(this.options.horizonS ?? 0, this.options.settledS ?? 0)) return false;
    yield { kind: 'endless', atS: this.body.now, fromS: since, ref };
    return true;
  }

  private *end(frame: Frame, ref: StepRef, pc: number): Run<number | Outcome> {
    const opener = frame.structure.partner[pc];
    const loop = opener >= 0 && frame.routine.steps[opener].kind === 'repeat' ? frame.loops.get(opener) : undefined;
    yield* this.body.mark(ref);
    if (!loop) return pc + 1;
    if (loop.left === Infinity) {
      yield* this.body.flush();
      const state = this.state();
      if (loop.asked !== this.asked) {
        Object.assign(loop, { began: this.body.now, asked: this.asked });
        loop.seen.clear();
        loop.seen.set(state, loop.began);
        return opener + 1;
      }
      const before = loop.seen.get(state);
      const stands = this.body.now - loop.began < NO_TIME;
      if (before !== undefined || stands || loop.seen.size > MOST_LAPS)
        if (yield* this.again(ref, stands ? loop.began : (before ?? loop.began))) return 'over';
      loop.began = this.body.now;
      loop.seen.set(state, loop.began);
      return opener + 1;
    }
    loop.left--;
    if (loop.left > 0) return opener + 1;
    frame.loops.delete(opener);
    return pc + 1;
  }

  private *call(ref: StepRef, id: string): Run<Outcome> {
    const other = this.rig.routines.find((r) => r.id === id);
    yield* this.body.mark(ref);
    if (!other) return 'done';
    if (ref.depth >= DEEPEST) {
      yield* this.body.problem(ref, { code: 'calls-too-deep', data: { step: ref.index + 1, most: DEEPEST } });
      return 'over';
    }
    return yield* this.routine(other, ref.depth + 1);
  }

  /** Two tracks at the same time, each with joints of its own; goes on when both are done. */
  private *alongside(frame: Frame, ref: StepRef, pc: number, step: StepOf<'alongside'>): Run<number | Outcome> {
    yield* this.body.flush();
    yield* this.body.mark(ref);
    const end = frame.structure.partner[pc];
    const other = this.rig.routines.find((r) => r.id === step.routine);
    if (end < 0 || !other || ref.depth >= DEEPEST) return end < 0 ? 'over' : pc + 1;
    const begin = this.body.now;
    const [mine, theirs] = [this.fork(), this.fork()];
    const tracks = [
      yield* track(mine.inside({ ...frame, loops: new Map(), seen: new Map() }, pc + 1, end)),
      yield* track(theirs.routine(other, ref.depth + 1)),
    ];
    const [a, b] = tracks.map((blocks) => slotsMoved(blocks));
    const both = [...a].filter((slot) => b.has(slot));
    for (const slot of both)
      yield* this.body.problem(ref, {
        code: 'joint-in-two',
        joint: this.mechanism.slotIds[slot],
        data: { step: pc + 1, joint: this.mechanism.names[this.mechanism.jointOfSlot[slot]] },
      });
    this.count = Math.max(mine.count, theirs.count);
    this.asked = Math.max(mine.asked, theirs.asked);
    const duration = Math.max(mine.body.now, theirs.body.now) - begin;
    if (both.length || duration === 0) return end + 1;
    const to = mine.body.q.slice();
    for (const slot of b) to[slot] = theirs.body.q[slot];
    const block: Block = {
      kind: 'together',
      from: this.body.q,
      to,
      duration,
      tracks: [
        { slots: [...a], blocks: tracks[0].map(({ block, atS }) => ({ block, startS: atS - begin })) },
        { slots: [...b], blocks: tracks[1].map(({ block, atS }) => ({ block, startS: atS - begin })) },
      ],
    };
    yield* this.body.emit(block, ref);
    this.body.q = to;
    for (const source of [mine, theirs]) {
      for (const [key, value] of source.counters) this.counters.set(key, value);
      for (const [key, value] of source.body.carried) this.body.carried.set(key, value);
    }
    return end + 1;
  }

  // ── Patterns ────────────────────────────────────────────────────────────────────────────────────────────────────

  private *pattern(frame: Frame, ref: StepRef, step: StepOf<'pattern'>): Run<Outcome> {
    const no = ref.index + 1;
    const tool = this.body.toolOf(step.tool);
    const places = placesOf(this.rig, step.places);
    const other = step.routine === null ? null : this.rig.routines.find((r) => r.id === step.routine);
    const wrong: Problem | null = !tool
      ? { code: 'path-no-tool', data: { step: no } }
      : !places
        ? { code: 'spot-unknown', data: { step: no } }
        : places.length === 0
          ? { code: 'pattern-empty', data: { step: no } }
          : null;
    if (wrong) yield* this.body.problem(ref, wrong);
    if (!tool || !places || wrong) return 'done';
    const paced = this.body.paced(step, frame.routine.profile);
    const { direction } = step;
    const length = direction ? Math.hypot(...direction) : 0;
    const unit = direction && length > 0 ? (direction.map((v) => v / length) as [number, number, number]) : null;
    for (const place of places) {
      const goal = placeGoal(this.mechanism, tool, this.body.q, place, unit);
      const above = before(goal, step.approachMm * M_PER_MM);
      const down = this.body.mover.jointLeg(tool, above, this.body.q, paced, no, 0);
      if (isProblem(down)) return yield* this.failed(ref, down);
      yield* this.body.addLegs(ref, [{ ...down, ref }]);
      if (step.approachMm > 0) {
        const leg = this.body.mover.straightLeg(tool, goal, this.body.q, paced, no, 0);
        if (isProblem(leg)) return yield* this.failed(ref, leg);
        yield* this.body.addLegs(ref, [{ ...leg, ref }]);
      }
      const tip = (): Vec3 => positionOf(forward(this.mechanism, this.body.q).tools.get(tool.id)!);
      const there = tip();
      if (other && (ref.depth >= DEEPEST || (yield* this.routine(other, ref.depth + 1)) === 'over')) return 'over';
      // A routine that leads the tool away is not led back.
      if (step.approachMm === 0 || vec3.distance(tip(), there) > NEAR) continue;
      const leg = this.body.mover.straightLeg(tool, above, this.body.q, paced, no, 0);
      if (isProblem(leg)) return yield* this.failed(ref, leg);
      yield* this.body.addLegs(ref, [{ ...leg, ref }]);
    }
    return 'done';
  }

  private *failed(ref: StepRef, problem: Problem): Run<Outcome> {
    yield* this.body.problem(ref, problem);
    return 'done';
  }
}

/** Runs a part to its end and keeps its blocks; everything else is said on. */
function* track(part: Run<Outcome>): Run<{ block: Block; atS: number }[]> {
  const blocks: { block: Block; atS: number }[] = [];
  let answer: InputValue | undefined;
  for (;;) {
    const next = part.next(answer);
    if (next.done) return blocks;
    answer = undefined;
    if (next.value.kind === 'block') blocks.push({ block: next.value.block, atS: next.value.atS });
    else answer = yield next.value;
  }
}
