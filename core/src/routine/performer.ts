/**
 * What a routine's steps do to the arm: moves gathered into blocks and said, grips, spins, payloads, power, tools. It knows where the
 * arm stands and what time it is; in which order the steps come is the interpreter's affair.
 */
import { fromUnit, inUnit, type CompiledTool, type Mechanism } from '../mechanism';
import { hold, ramp, spinning, type Block, type ProfileKind } from '../motion';
import type { Keep, Pace, Respect, Rig, StepOf } from '../rig';
import { Ease } from './ease';
import type { Run, StepRef } from './events';
import type { Leg } from './legs';
import { jawValue } from './move-checks';
import { lesser } from './orientation';
import { pacedBy, type Mover, type MoveStep, type Paced } from './mover';
import { isProblem, type Goal, type Problem } from './targets';

/** A move that takes as long as it was asked to was not slowed. */
const NO_SLOWER = 1e-6;

export class Performer {
  /** Seconds since the routine began. */
  now = 0;
  /** Share of every pace from here on. */
  speed = 1;
  /** Payload by tool. */
  readonly carried = new Map<string, string>();
  private legs: Leg[] = [];
  private readonly mounted: Set<string>;
  private readonly loose = new Set<number>();
  private readonly spins = new Map<number, { speed: number; at: number }>();
  private readonly ease: Ease;

  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    readonly mover: Mover,
    /** Where the arm will stand once the legs waiting are done. */
    public q: Float64Array,
    tools: Iterable<string>,
    ease?: Ease,
  ) {
    this.mounted = new Set(tools);
    this.ease = ease ?? new Ease(rig, mechanism, mover.cache);
  }

  /** Another one that begins where this one stands; what spins goes on here. */
  fork(): Performer {
    const other = new Performer(this.rig, this.mechanism, this.mover, this.q, this.mounted, this.ease);
    other.now = this.now;
    other.speed = this.speed;
    for (const [tool, payload] of this.carried) other.carried.set(tool, payload);
    for (const slot of this.loose) other.loose.add(slot);
    return other;
  }

  /** Another one in just this state: what waits, what spins. */
  copy(): Performer {
    const other = this.fork();
    other.legs = [...this.legs];
    for (const [slot, spin] of this.spins) other.spins.set(slot, { ...spin });
    return other;
  }

  /** All that decides what its next steps do, but for the time; `free`: slots of which it does not matter where they stand. */
  state(free: ReadonlySet<number>): string {
    const q = Array.from(this.q, (v, slot) => (free.has(slot) ? '' : v.toFixed(6)));
    const spins = [...this.spins].map(([slot, { speed }]) => `${slot} ${speed}`);
    const waiting = this.legs.map(({ key, ref }) => `${ref.step.id} ${key}`);
    return [q, [...this.carried], this.speed, [...this.mounted], [...this.loose], spins, waiting].join('|');
  }

  /** What moves of a step's routine are slowed down for. */
  private respectOf({ routine }: StepRef): readonly Respect[] {
    return this.rig.routines.find(({ id }) => id === routine)?.respect ?? [];
  }

  toolOf(id: string | undefined): CompiledTool | undefined {
    return this.mechanism.tools.find((t) => (id === undefined || t.id === id) && this.mounted.has(t.id));
  }

  *move(ref: StepRef, step: MoveStep, profile: ProfileKind): Run<void> {
    const made = this.mover.legsOf(step, this.toolOf(step.tool), this.q, this.paced(step, profile), ref.index + 1);
    if (isProblem(made)) return yield* this.problem(ref, made);
    yield* this.addLegs(
      ref,
      made.map((leg) => ({ ...leg, ref })),
    );
  }

  /** Pace and profile of a step; `profile`: the routine's own, where the step has none. */
  readonly paced = (step: { pace: Pace; profile?: ProfileKind }, profile: ProfileKind): Paced =>
    pacedBy(step.pace, step.profile ?? profile, this.speed);

  /** Takes legs of one step to those that wait; a wished duration is shared out over them. */
  *addLegs(ref: StepRef, legs: readonly Leg[]): Run<void> {
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
      const code = this.loose.has(slot) ? 'joint-let-go' : this.spins.has(slot) ? 'joint-spins' : null;
      if (!code) continue;
      const joint = this.mechanism.jointOfSlot[slot];
      return { code, joint: this.mechanism.ids[joint], data: { step: no, joint: this.mechanism.names[joint] } };
    }
    return null;
  }

  /** Makes blocks of the legs that wait. */
  *flush(): Run<void> {
    if (!this.legs.length) return;
    const { legs } = this;
    this.legs = [];
    const { blocks, dropped } = this.mover.blocks(legs);
    for (const { ref } of dropped) yield* this.problem(ref, { code: 'blend-dropped', data: { step: ref.index + 1 } });
    /** Steps under way, one after another; the legs of one step follow each other. */
    const spans: { ref: StepRef; startS: number; endS: number; keep?: Keep }[] = [];
    for (const made of blocks) {
      const { block } = made;
      const { ref, pace } = made.ends[0].leg;
      if (pace.durationS !== undefined && block.duration > pace.durationS * (1 + 1e-9))
        yield* this.problem(ref, {
          code: 'duration-too-short',
          data: { step: ref.index + 1, wished: pace.durationS, least: block.duration },
        });
      const begin = this.now;
      const { carried, mounted, loose } = this;
      const { block: eased, ends } = this.ease.eased(made, this.respectOf(ref), { carried, mounted, loose });
      const share = block.duration / eased.duration;
      if ('slowedFor' in eased && eased.slowedFor && share < 1 - NO_SLOWER)
        yield* this.problem(ref, {
          code: 'slowed-for-load',
          data: {
            step: ref.index + 1,
            share: 100 * share,
            why: eased.slowedFor === 'tip' ? 'its base' : 'its motors',
          },
        });
      yield* this.emit(eased, ref);
      for (const [k, end] of ends.entries()) {
        const endS = k === ends.length - 1 ? this.now : begin + end.s;
        const last = spans.at(-1);
        const { ref, keep } = end.leg;
        if (last?.ref === ref) Object.assign(last, { endS, keep: lesser(last.keep, keep) });
        else spans.push({ ref, startS: last?.endS ?? begin, endS, ...(keep && { keep }) });
      }
    }
    for (const span of spans) yield { kind: 'span', ...span };
    const done = new Set(spans.map(({ ref }) => ref));
    for (const ref of new Set(legs.map((leg) => leg.ref))) if (!done.has(ref)) yield* this.mark(ref);
  }

  /** Says a block, with what spins beside it, and lets its time pass. */
  *emit(block: Block, ref: StepRef): Run<void> {
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

  *pass(ref: StepRef, seconds: number): Run<void> {
    const begin = this.now;
    if (seconds > 0) yield* this.emit(hold(this.q, seconds), ref);
    yield { kind: 'span', ref, startS: begin, endS: this.now };
  }

  *mark(ref: StepRef): Run<void> {
    yield { kind: 'span', ref, startS: this.now, endS: this.now };
  }

  *problem(ref: StepRef, problem: Problem): Run<void> {
    yield { kind: 'problem', atS: this.now, ref, problem };
  }

  *carry(tool: string, payload: string | null): Run<void> {
    if (payload === null) this.carried.delete(tool);
    else this.carried.set(tool, payload);
    yield { kind: 'carry', atS: this.now, tool, payload };
  }

  *grip(ref: StepRef, step: StepOf<'grip'>, profile: ProfileKind): Run<void> {
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
      yield { kind: 'output', atS: this.now, signal: grip.output, on, ref };
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
      to[slot] = fromUnit(this.mechanism, slot, value);
      const goal: Goal = { q: to, frame: () => to, least: 'turn' };
      const made = this.mover.jointLeg(undefined, goal, this.q, this.paced(step, profile), no, 0);
      if (isProblem(made)) return yield* this.problem(ref, made);
      yield* this.addLegs(ref, [{ ...made, ref }]);
    }
    if (step.payload) yield* this.carry(step.tool, step.payload);
  }

  *spin(ref: StepRef, step: StepOf<'spin'>): Run<void> {
    yield* this.flush();
    const { mechanism } = this;
    const no = ref.index + 1;
    const slot = mechanism.slotOf.get(step.joint);
    if (slot === undefined || mechanism.upper[slot] !== Infinity || mechanism.lower[slot] !== -Infinity)
      return yield* this.problem(ref, { code: 'spin-has-ends', data: { step: no } });
    const speed = fromUnit(mechanism, slot, step.speed) * this.speed;
    const name = mechanism.names[mechanism.jointOfSlot[slot]];
    if (Math.abs(speed) > mechanism.speed[slot] * (1 + 1e-9))
      return yield* this.problem(ref, {
        code: 'spin-too-fast',
        joint: step.joint,
        data: { step: no, joint: name, limit: inUnit(mechanism, slot, mechanism.speed[slot]) },
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

  /** Motors of joints get power, or none. */
  *power(ref: StepRef, joints: readonly string[], on: boolean): Run<void> {
    yield* this.flush();
    for (const id of joints) {
      const slot = this.mechanism.slotOf.get(id);
      if (slot === undefined) continue;
      if (on) this.loose.delete(slot);
      else this.loose.add(slot);
    }
    yield { kind: 'power', atS: this.now, joints, on, ref };
    yield* this.mark(ref);
  }

  *swap(ref: StepRef, { off, on }: StepOf<'swap-tool'>): Run<void> {
    yield* this.flush();
    if (off !== null) this.mounted.delete(off);
    if (on !== null) {
      if (!this.mechanism.tools.some((t) => t.id === on))
        yield* this.problem(ref, { code: 'path-no-tool', data: { step: ref.index + 1 } });
      else this.mounted.add(on);
    }
    yield { kind: 'swap', atS: this.now, off, on, ref };
    yield* this.mark(ref);
  }
}
