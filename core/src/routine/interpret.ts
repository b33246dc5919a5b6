/**
 * The one interpreter of routines: says what happens, moment by moment, and asks for inputs where a step needs one. Plan, preview,
 * generated commands and live run all drive this same loop.
 */
import type { Code, Data } from '../contract/messages';
import { forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { hold, ramp, spinning, type Block, type ProfileKind } from '../motion';
import type { Pace, Rig, Routine, StepOf } from '../rig';
import { M_PER_MM } from '../units/convert';
import type { InputValue, RoutineEvent, StepRef } from './events';
import type { Leg } from './legs';
import { MoveCache } from './move-cache';
import { jawValue } from './move-checks';
import { Mover, pacedBy, slotsMoved, type MoveStep, type Paced } from './mover';
import { placesOf } from './places';
import { structureOf, type Structure } from './structure';
import { before, isProblem, placeGoal, type Goal, type Problem } from './targets';

/** More steps than this are not run through. */
export const MOST_STEPS = 200_000;
/** Routines that call routines, at most so deep. */
const DEEPEST = 32;
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
}

type Run<T> = Generator<RoutineEvent, T, InputValue | undefined>;
/** How a part ended: at its end, by a return, or with the whole routine. */
type Outcome = 'done' | 'returned' | 'over';

export function* interpret(
  rig: Rig,
  mechanism: Mechanism,
  routine: Routine,
  start: Float64Array,
  options: InterpretOptions = {},
): Run<Float64Array> {
  const run = new Interpreter(
    rig,
    mechanism,
    start,
    new Mover(rig, mechanism, options.cache ?? new MoveCache()),
    options,
  );
  yield* run.routine(routine, 0);
  return run.q;
}

interface Frame {
  readonly routine: Routine;
  readonly structure: Structure;
  readonly depth: number;
  /** Of repeats under way: passes left, and when this pass began. */
  readonly loops: Map<number, { left: number; began: number }>;
  /** When the same place was passed in the same state. */
  readonly seen: Map<string, number>;
}

class Interpreter {
  now = 0;
  private legs: Leg[] = [];
  private counters = new Map<string, number>();
  private carried = new Map<string, string>();
  private mounted: Set<string>;
  private speed = 1;
  private loose = new Set<number>();
  private spins = new Map<number, { speed: number; at: number }>();
  private count = 0;

  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    /** Where the arm will stand once the legs waiting are done. */
    public q: Float64Array,
    private readonly mover: Mover,
    private readonly options: InterpretOptions,
  ) {
    this.mounted = new Set(mechanism.tools.filter((t) => t.mounted).map((t) => t.id));
  }

  /** Another one that begins where this one stands. */
  private fork(): Interpreter {
    const other = new Interpreter(this.rig, this.mechanism, this.q, this.mover, this.options);
    other.now = this.now;
    other.counters = new Map(this.counters);
    other.carried = new Map(this.carried);
    other.mounted = new Set(this.mounted);
    other.speed = this.speed;
    other.loose = new Set(this.loose);
    other.count = this.count;
    return other;
  }

  *routine(routine: Routine, depth: number): Run<Outcome> {
    const structure = structureOf(routine.steps);
    const frame: Frame = { routine, structure, depth, loops: new Map(), seen: new Map() };
    const outcome = yield* this.range(frame, 0, routine.steps.length);
    yield* this.flush();
    return outcome === 'over' ? 'over' : 'done';
  }

  /** A part that ends with its moves done. */
  private *inside(frame: Frame, from: number, to: number): Run<Outcome> {
    const outcome = yield* this.range(frame, from, to);
    yield* this.flush();
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
        yield* this.problem(ref, { code: 'routine-too-long', data: { step: pc + 1, most: MOST_STEPS } });
        yield* this.flush();
        return 'over';
      }
      const next = yield* this.step(frame, ref, pc);
      if (typeof next === 'string') return next;
      if (next < from || next > to) {
        // Only steps alongside have ends that are not the routine's own.
        yield* this.problem(ref, { code: 'jump-out-of-alongside', data: { step: pc + 1 } });
        return 'done';
      }
      pc = next;
    }
    return 'done';
  }

  /** Does one step; where to go on, or how it all ended. */
  private *step(frame: Frame, ref: StepRef, pc: number): Run<number | Outcome> {
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
        yield* this.move(frame, ref, step);
        return pc + 1;
      case 'grip':
        yield* this.grip(frame, ref, step);
        return pc + 1;
      case 'spin':
        yield* this.spin(ref, step);
        return pc + 1;
      case 'pattern':
        return (yield* this.pattern(frame, ref, step)) === 'over' ? 'over' : pc + 1;
      case 'wait':
        yield* this.flush();
        yield* this.pass(ref, step.durationS);
        return pc + 1;
      case 'wait-input': {
        yield* this.flush();
        const waited = yield {
          kind: 'await',
          atS: this.now,
          signal: step.signal,
          is: step.is,
          atMostS: step.timeoutS,
          ref,
        };
        const met = typeof waited === 'number';
        yield* this.pass(ref, met ? waited : (step.timeoutS ?? 0));
        if (met || step.otherwise === 'go-on') return pc + 1;
        if (step.otherwise === 'stop') {
          yield* this.problem(ref, { code: 'wait-in-vain', data: { step: pc + 1 } });
          return 'over';
        }
        return yield* this.jump(frame, ref, pc, step.otherwise.jump);
      }
      case 'output':
        yield* this.flush();
        yield { kind: 'output', atS: this.now, signal: step.signal, on: step.on };
        yield* this.mark(ref);
        return pc + 1;
      case 'hold':
      case 'let-go': {
        yield* this.flush();
        for (const id of step.joints) {
          const slot = this.mechanism.slotOf.get(id);
          if (slot === undefined) continue;
          if (step.kind === 'hold') this.loose.delete(slot);
          else this.loose.add(slot);
        }
        yield { kind: 'power', atS: this.now, joints: step.joints, on: step.kind === 'hold' };
        yield* this.mark(ref);
        return pc + 1;
      }
      case 'pick-up':
      case 'put-down':
        yield* this.flush();
        yield* this.carry(step.tool, step.kind === 'pick-up' ? step.payload : null);
        yield* this.mark(ref);
        return pc + 1;
      case 'swap-tool':
        yield* this.flush();
        if (step.off !== null) this.mounted.delete(step.off);
        if (step.on !== null) {
          if (!this.mechanism.tools.some((t) => t.id === step.on))
            yield* this.problem(ref, { code: 'path-no-tool', data: { step: pc + 1 } });
          else this.mounted.add(step.on);
        }
        yield { kind: 'swap', atS: this.now, off: step.off, on: step.on };
        yield* this.mark(ref);
        return pc + 1;
      case 'speed':
        this.speed = step.share;
        yield* this.mark(ref);
        return pc + 1;
      case 'marker':
      case 'group':
      case 'note':
        yield* this.mark(ref);
        return pc + 1;
      case 'jump':
        yield* this.mark(ref);
        return yield* this.jump(frame, ref, pc, step.to);
      case 'counter': {
        const value =
          'set' in step.change ? step.change.set : (this.counters.get(step.counter) ?? 0) + step.change.add;
        this.counters.set(step.counter, value);
        yield { kind: 'counter', atS: this.now, counter: step.counter, value };
        yield* this.mark(ref);
        return pc + 1;
      }
      case 'repeat':
        frame.loops.set(pc, { left: step.times ?? Infinity, began: this.now });
        yield* this.mark(ref);
        return pc + 1;
      case 'if': {
        const holds = yield* this.holds(ref, step);
        yield* this.mark(ref);
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
        yield* this.flush();
        yield* this.mark(ref);
        return 'returned';
      case 'alongside':
        return yield* this.alongside(frame, ref, pc, step);
    }
  }

  // ── Order ───────────────────────────────────────────────────────────────────────────────────────────────────────

  private *holds(ref: StepRef, { when }: StepOf<'if'>): Run<boolean> {
    if ('signal' in when) {
      yield* this.flush();
      const on = yield { kind: 'read', atS: this.now, signal: when.signal, ref };
      return (on === true) === when.is;
    }
    const value = this.counters.get(when.counter) ?? 0;
    return when.is === 'below' ? value < when.value : when.is === 'above' ? value > when.value : value === when.value;
  }

  private *jump(frame: Frame, ref: StepRef, pc: number, name: string): Run<number | Outcome> {
    const to = frame.structure.markers.get(name);
    // A marker that is missing is said before anything runs.
    if (to === undefined) return 'over';
    if (to > pc) return to;
    yield* this.flush();
    const key = `${pc}|${[...this.counters].join()}|${[...this.carried].join()}|${this.speed}|${[...this.q].map((v) => v.toFixed(6)).join()}`;
    const before = frame.seen.get(key);
    if (before !== undefined) {
      const over = yield* this.again(ref, before);
      if (over) return 'over';
    }
    frame.seen.set(key, this.now);
    return to;
  }

  /** The same state as at `since`: whether that ends it. */
  private *again(ref: StepRef, since: number): Run<boolean> {
    if (this.now - since < NO_TIME) {
      yield* this.problem(ref, { code: 'loop-without-wait', data: { step: ref.index + 1 } });
      return true;
    }
    if (this.now < Math.max(this.options.horizonS ?? 0, this.options.settledS ?? 0)) return false;
    yield { kind: 'endless', atS: this.now, fromS: since, ref };
    return true;
  }

  private *end(frame: Frame, ref: StepRef, pc: number): Run<number | Outcome> {
    const opener = frame.structure.partner[pc];
    const loop = opener >= 0 && frame.routine.steps[opener].kind === 'repeat' ? frame.loops.get(opener) : undefined;
    yield* this.mark(ref);
    if (!loop) return pc + 1;
    if (loop.left === Infinity) {
      yield* this.flush();
      if (yield* this.again(ref, loop.began)) return 'over';
      loop.began = this.now;
      return opener + 1;
    }
    loop.left--;
    if (loop.left > 0) return opener + 1;
    frame.loops.delete(opener);
    return pc + 1;
  }

  private *call(ref: StepRef, id: string): Run<Outcome> {
    const other = this.rig.routines.find((r) => r.id === id);
    yield* this.mark(ref);
    if (!other) return 'done';
    if (ref.depth >= DEEPEST) {
      yield* this.problem(ref, { code: 'calls-too-deep', data: { step: ref.index + 1, most: DEEPEST } });
      return 'over';
    }
    return yield* this.routine(other, ref.depth + 1);
  }

  /** Two tracks at the same time, each with joints of its own; goes on when both are done. */
  private *alongside(frame: Frame, ref: StepRef, pc: number, step: StepOf<'alongside'>): Run<number | Outcome> {
    yield* this.flush();
    yield* this.mark(ref);
    const end = frame.structure.partner[pc];
    const other = this.rig.routines.find((r) => r.id === step.routine);
    if (end < 0 || !other || ref.depth >= DEEPEST) return end < 0 ? 'over' : pc + 1;
    const begin = this.now;
    const [mine, theirs] = [this.fork(), this.fork()];
    const tracks = [
      yield* track(mine.inside({ ...frame, loops: new Map(), seen: new Map() }, pc + 1, end)),
      yield* track(theirs.routine(other, ref.depth + 1)),
    ];
    const [a, b] = tracks.map((blocks) => slotsMoved(blocks));
    const both = [...a].filter((slot) => b.has(slot));
    for (const slot of both)
      yield* this.problem(ref, {
        code: 'joint-in-two',
        joint: this.mechanism.slotIds[slot],
        data: { step: pc + 1, joint: this.mechanism.names[this.mechanism.jointOfSlot[slot]] },
      });
    this.count = Math.max(mine.count, theirs.count);
    const duration = Math.max(mine.now, theirs.now) - begin;
    if (both.length || duration === 0) return end + 1;
    const to = mine.q.slice();
    for (const slot of b) to[slot] = theirs.q[slot];
    const block: Block = {
      kind: 'together',
      from: this.q,
      to,
      duration,
      tracks: [
        { slots: [...a], blocks: tracks[0].map(({ block, atS }) => ({ block, startS: atS - begin })) },
        { slots: [...b], blocks: tracks[1].map(({ block, atS }) => ({ block, startS: atS - begin })) },
      ],
    };
    yield* this.emit(block, ref);
    this.q = to;
    for (const source of [mine, theirs]) {
      for (const [key, value] of source.counters) this.counters.set(key, value);
      for (const [key, value] of source.carried) this.carried.set(key, value);
    }
    return end + 1;
  }

  // ── Moves ───────────────────────────────────────────────────────────────────────────────────────────────────────

  private toolOf(id: string | undefined): CompiledTool | undefined {
    return this.mechanism.tools.find((t) => (id === undefined || t.id === id) && this.mounted.has(t.id));
  }

  private *move(frame: Frame, ref: StepRef, step: MoveStep): Run<void> {
    const made = this.mover.legsOf(step, this.toolOf(step.tool), this.q, this.paced(frame, step), ref.index + 1);
    if (isProblem(made)) return yield* this.problem(ref, made);
    yield* this.addLegs(
      ref,
      made.map((leg) => ({ ...leg, ref })),
    );
  }

  private readonly paced = (frame: Frame, { pace, profile }: { pace: Pace; profile?: ProfileKind }): Paced =>
    pacedBy(pace, profile ?? frame.routine.profile, this.speed);

  /** Takes legs of one step to those that wait; a wished duration is shared out over them. */
  private *addLegs(ref: StepRef, legs: readonly Leg[]): Run<void> {
    const wish = legs[0]?.pace.durationS;
    const shared = wish === undefined || legs.length < 2 ? legs : this.mover.shareOut(legs, wish);
    for (const leg of shared) {
      const problem = this.standing(leg, ref.index + 1);
      if (problem) return yield* this.problem(ref, problem);
      this.legs.push(leg);
      this.q = leg.to;
      if (leg.pace.profile === 'jump' || leg.pace.profile === 'linear')
        if (leg.to.some((v, s) => v !== leg.from[s]))
          yield* this.problem(ref, {
            code: leg.pace.profile === 'jump' ? 'profile-jump' : 'profile-sharp',
            data: { step: ref.index + 1 },
          });
    }
    if (!legs.length || legs.at(-1)!.blend === 0) yield* this.flush();
  }

  /** A joint that has no power, or spins, is not moved. */
  private standing(leg: Leg, no: number): Problem | null {
    for (let slot = 0; slot < leg.to.length; slot++) {
      if (leg.to[slot] === leg.from[slot]) continue;
      const code: Code | null = this.loose.has(slot) ? 'joint-let-go' : this.spins.has(slot) ? 'joint-spins' : null;
      if (!code) continue;
      const joint = this.mechanism.jointOfSlot[slot];
      return { code, joint: this.mechanism.ids[joint], data: { step: no, joint: this.mechanism.names[joint] } };
    }
    return null;
  }

  /** Makes blocks of the legs that wait. */
  private *flush(): Run<void> {
    if (!this.legs.length) return;
    const { legs } = this;
    this.legs = [];
    const { blocks, dropped } = this.mover.blocks(legs);
    for (const { ref } of dropped) yield* this.problem(ref, { code: 'blend-dropped', data: { step: ref.index + 1 } });
    /** Steps under way, one after another; the legs of one step follow each other. */
    const spans: { ref: StepRef; startS: number; endS: number }[] = [];
    for (const { block, ends } of blocks) {
      const { ref, pace } = ends[0].leg;
      if (pace.durationS !== undefined && block.duration > pace.durationS * (1 + 1e-9))
        yield* this.problem(ref, {
          code: 'duration-too-short',
          data: { step: ref.index + 1, wished: pace.durationS, least: block.duration },
        });
      const begin = this.now;
      yield* this.emit(block, ref);
      for (const [k, end] of ends.entries()) {
        const endS = k === ends.length - 1 ? this.now : begin + end.s;
        const last = spans.at(-1);
        if (last?.ref === end.leg.ref) last.endS = endS;
        else spans.push({ ref: end.leg.ref, startS: last?.endS ?? begin, endS });
      }
    }
    for (const span of spans) yield { kind: 'span', ...span };
    const done = new Set(spans.map(({ ref }) => ref));
    for (const ref of new Set(legs.map((leg) => leg.ref))) if (!done.has(ref)) yield* this.mark(ref);
  }

  /** Says a block, with what spins beside it, and lets its time pass. */
  private *emit(block: Block, ref: StepRef): Run<void> {
    let said = block;
    if (this.spins.size) {
      const from = block.from.slice();
      for (const [slot, { at }] of this.spins) from[slot] = at;
      said = spinning(
        { ...block, from },
        [...this.spins].map(([slot, { speed }]) => ({ slot, speed })),
      );
      for (const [slot, spin] of this.spins) spin.at = said.to[slot];
    }
    yield { kind: 'block', atS: this.now, block: said, ref };
    this.now += block.duration;
  }

  private *pass(ref: StepRef, seconds: number): Run<void> {
    const begin = this.now;
    if (seconds > 0) yield* this.emit(hold(this.q, seconds), ref);
    yield { kind: 'span', ref, startS: begin, endS: this.now };
  }

  private *mark(ref: StepRef): Run<void> {
    yield { kind: 'span', ref, startS: this.now, endS: this.now };
  }

  private *problem(ref: StepRef, problem: Problem): Run<void> {
    yield { kind: 'problem', atS: this.now, ref, problem };
  }

  private *carry(tool: string, payload: string | null): Run<void> {
    if (payload === null) this.carried.delete(tool);
    else this.carried.set(tool, payload);
    yield { kind: 'carry', atS: this.now, tool, payload };
  }

  // ── Grips, spins, patterns ──────────────────────────────────────────────────────────────────────────────────────

  private *grip(frame: Frame, ref: StepRef, step: StepOf<'grip'>): Run<void> {
    yield* this.flush();
    const no = ref.index + 1;
    const tool = this.rig.mechanism.tools.find((t) => t.id === step.tool);
    const grip = tool?.grip;
    if (!grip) return yield* this.problem(ref, { code: 'grip-no-tool', data: { step: no } });
    // A tool lets go before it opens and holds once it has closed.
    if (step.payload === null) yield* this.carry(step.tool, null);
    if ('output' in grip) {
      if (step.to !== 'open' && step.to !== 'closed')
        return yield* this.problem(ref, { code: 'grip-on-off', data: { step: no } });
      const on = step.to === 'closed';
      yield { kind: 'output', atS: this.now, signal: grip.output, on };
      yield* this.pass(ref, (on ? grip.closeS : grip.openS) ?? 0);
    } else {
      const slot = this.mechanism.slotOf.get(grip.joint);
      const value = slot === undefined ? null : jawValue(grip, step.to);
      if (slot === undefined || value === null)
        return yield* this.problem(ref, {
          code: slot === undefined ? 'grip-no-tool' : 'grip-no-openings',
          data: { step: no },
        });
      const to = this.q.slice();
      to[slot] = value * this.mechanism.siPerUnit[slot];
      const goal: Goal = { q: to, frame: () => to, task: () => ({ kind: 'free', position: [0, 0, 0] }) };
      const made = this.mover.jointLeg(undefined, goal, this.q, this.paced(frame, step), no, 0);
      if (isProblem(made)) return yield* this.problem(ref, made);
      yield* this.addLegs(ref, [{ ...made, ref }]);
    }
    if (step.payload) yield* this.carry(step.tool, step.payload);
  }

  private *spin(ref: StepRef, step: StepOf<'spin'>): Run<void> {
    yield* this.flush();
    const { mechanism } = this;
    const no = ref.index + 1;
    const slot = mechanism.slotOf.get(step.joint);
    if (slot === undefined || mechanism.upper[slot] !== Infinity || mechanism.lower[slot] !== -Infinity)
      return yield* this.problem(ref, { code: 'spin-has-ends', data: { step: no } });
    const speed = step.speed * mechanism.siPerUnit[slot] * this.speed;
    const name = mechanism.names[mechanism.jointOfSlot[slot]];
    if (Math.abs(speed) > mechanism.speed[slot] * (1 + 1e-9))
      return yield* this.problem(ref, {
        code: 'spin-too-fast',
        joint: step.joint,
        data: { step: no, joint: name, limit: mechanism.speed[slot] / mechanism.siPerUnit[slot] },
      });
    const begin = this.now;
    yield* this.rampTo(slot, speed, ref);
    if (step.until !== 'stopped') {
      const until = step.until;
      let seconds: number;
      if ('forS' in until) seconds = Math.max(0, until.forS - 2 * (this.now - begin));
      else {
        const waited = yield {
          kind: 'await',
          atS: this.now,
          signal: until.signal,
          is: until.is,
          atMostS: until.atMostS,
          ref,
        };
        seconds = typeof waited === 'number' ? waited : until.atMostS;
      }
      if (seconds > 0) yield* this.emit(hold(this.q, seconds), ref);
      yield* this.rampTo(slot, 0, ref);
    }
    yield { kind: 'span', ref, startS: begin, endS: this.now };
  }

  private *rampTo(slot: number, speed: number, ref: StepRef): Run<void> {
    const before = this.spins.get(slot);
    const at = this.q.slice();
    if (before) at[slot] = before.at;
    const block = ramp(this.mechanism, at, slot, before?.speed ?? 0, speed);
    this.spins.delete(slot);
    if (block.duration > 0) yield* this.emit(block, ref);
    if (speed === 0) {
      this.q = this.q.slice();
      this.q[slot] = block.to[slot];
    } else this.spins.set(slot, { speed, at: block.to[slot] });
  }

  private *pattern(frame: Frame, ref: StepRef, step: StepOf<'pattern'>): Run<Outcome> {
    const no = ref.index + 1;
    const tool = this.toolOf(step.tool);
    const places = placesOf(this.rig, step.places);
    const other = step.routine === null ? null : this.rig.routines.find((r) => r.id === step.routine);
    const wrong: [Code, Data] | null = !tool
      ? ['path-no-tool', { step: no }]
      : !places
        ? ['spot-unknown', { step: no }]
        : places.length === 0
          ? ['pattern-empty', { step: no }]
          : null;
    if (wrong) yield* this.problem(ref, { code: wrong[0], data: wrong[1] });
    if (!tool || !places || wrong) return 'done';
    const paced = this.paced(frame, step);
    const { direction } = step;
    const length = direction ? Math.hypot(...direction) : 0;
    const unit = direction && length > 0 ? (direction.map((v) => v / length) as [number, number, number]) : null;
    for (const place of places) {
      const goal = placeGoal(this.mechanism, tool, this.q, place, unit);
      const above = before(tool, goal, step.approachMm * M_PER_MM);
      const down = this.mover.jointLeg(tool, above, this.q, paced, no, 0);
      if (isProblem(down)) return yield* this.failed(ref, down);
      yield* this.addLegs(ref, [{ ...down, ref }]);
      if (step.approachMm > 0) {
        const leg = this.mover.straightLeg(tool, goal, this.q, paced, no, 0);
        if (isProblem(leg)) return yield* this.failed(ref, leg);
        yield* this.addLegs(ref, [{ ...leg, ref }]);
      }
      const tip = (): Vec3 => positionOf(forward(this.mechanism, this.q).tools.get(tool.id)!);
      const there = tip();
      if (other && (ref.depth >= DEEPEST || (yield* this.routine(other, ref.depth + 1)) === 'over')) return 'over';
      // A routine that leads the tool away is not led back.
      if (step.approachMm === 0 || vec3.distance(tip(), there) > NEAR) continue;
      const leg = this.mover.straightLeg(tool, above, this.q, paced, no, 0);
      if (isProblem(leg)) return yield* this.failed(ref, leg);
      yield* this.addLegs(ref, [{ ...leg, ref }]);
    }
    return 'done';
  }

  private *failed(ref: StepRef, problem: Problem): Run<Outcome> {
    yield* this.problem(ref, problem);
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
