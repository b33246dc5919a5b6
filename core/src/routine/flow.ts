/**
 * A routine as a graph of what is done and where to go on, for boards that walk through it by themselves: loops stay loops, and inputs and
 * counters are asked as it goes. Each step is done by the interpreter; what is told apart here is only in which state of the arm it is
 * come to, since a move that begins elsewhere is another move. A step that is come to in several states stands there once for each.
 */
import type { Mechanism } from '../mechanism';
import type { Block } from '../motion';
import type { Rig, Routine, Step, StepOf } from '../rig';
import type { InputValue, RoutineEvent, StepRef } from './events';
import { routineFindings } from './findings';
import { DEEPEST, Interpreter, newFrame, type Outcome } from './interpret';
import type { MoveCache } from './move-cache';
import { calledBy, structureOf, type Structure } from './structure';

/** Something switched. */
export type FlowSwitch =
  | { readonly kind: 'output'; readonly signal: string; readonly on: boolean }
  | { readonly kind: 'power'; readonly joints: readonly string[]; readonly on: boolean };
export type FlowAct =
  | FlowSwitch
  /** Motion, or standing still, with what is switched so many seconds after it began. */
  | {
      readonly kind: 'block';
      readonly block: Block;
      readonly during: readonly (FlowSwitch & { readonly atS: number })[];
    }
  | { readonly kind: 'counter'; readonly counter: string; readonly change: StepOf<'counter'>['change'] }
  /** From here on a loop has so many laps to go. */
  | { readonly kind: 'loop'; readonly loop: number; readonly times: number };

/** Where to go on (numbers of nodes). */
export type FlowNext =
  | { readonly kind: 'go'; readonly to: number }
  /** `inVain`: an input that the routine stops without did not come. */
  | { readonly kind: 'end'; readonly inVain: boolean }
  | { readonly kind: 'read'; readonly signal: string; readonly on: number; readonly off: number }
  | {
      readonly kind: 'await';
      readonly signal: string;
      readonly is: boolean;
      readonly atMostS: number | null;
      readonly met: number;
      readonly inVain: number;
    }
  | {
      readonly kind: 'compare';
      readonly counter: string;
      readonly is: 'equal' | 'below' | 'above';
      readonly value: number;
      readonly yes: number;
      readonly no: number;
    }
  /** One lap of a loop is done: again while some are left. */
  | { readonly kind: 'lap'; readonly loop: number; readonly again: number; readonly done: number };

export interface FlowNode {
  readonly acts: readonly FlowAct[];
  readonly next: FlowNext;
}
/** It begins at node 0. */
export interface Flow {
  readonly start: Float64Array;
  readonly nodes: readonly FlowNode[];
  /** How many loops are counted. */
  readonly loops: number;
}
/**
 * Why there is no such graph: steps beside others or at the places of a pattern that ask inputs or counters (beside), a step that cannot be
 * done in a state that it is come to (fault), or states without end (endless).
 */
export interface NoFlow {
  readonly why: 'beside' | 'fault' | 'endless';
  readonly routine: string;
  readonly step: Step;
  /** From 0. */
  readonly index: number;
}

/** Nodes at most, states in which a lap begins before a loop is written out, and laps that are written out at most. */
const MOST_NODES = 4000;
const MOST_LAPS = { different: 40, writtenOut: 300 };
/** Moments (s) this near are one. */
const NEAR = 1e-9;

/** `free`: slots of which it does not matter where they stand, since nothing knows it. */
export function flowOf(
  rig: Rig,
  mechanism: Mechanism,
  routine: Routine,
  { start = mechanism.home, cache, free = new Set() }: FlowOptions = {},
): Flow | NoFlow {
  const writtenOut = new Set<string>();
  for (;;) {
    const found = new Explorer(rig, mechanism, writtenOut, free).explore(routine, start, cache);
    if (typeof found !== 'string') return found;
    writtenOut.add(found);
  }
}
export interface FlowOptions {
  readonly start?: Float64Array;
  readonly cache?: MoveCache;
  readonly free?: ReadonlySet<number>;
}
export const isFlow = (flow: Flow | NoFlow): flow is Flow => 'nodes' in flow;

/** A routine under way: which step comes next, and laps left of loops that are written out. */
interface Place {
  readonly routine: Routine;
  readonly structure: Structure;
  readonly pc: number;
  readonly left: ReadonlyMap<number, number>;
}
interface State {
  readonly places: readonly Place[];
  readonly arm: Interpreter;
}
/** Thrown where there is no graph, or a loop must be written out. */
class Refused {
  constructor(readonly by: NoFlow | string) {}
}

type Asking = Extract<RoutineEvent, { kind: 'read' | 'await' }>;
/** A step as far as it was done: to its end, or to what it asks. */
interface Done {
  readonly arm: Interpreter;
  readonly acts: Acts;
  readonly outcome: number | Outcome;
  readonly asks: Asking | null;
}
const begin = (routine: Routine): Place => ({
  ...{ routine, structure: structureOf(routine.steps), pc: 0 },
  left: new Map(),
});

const placeKey = ({ routine, pc, left }: Place): string => `${routine.id}:${pc}:${[...left].join('/')}`;

class Explorer {
  private readonly numbers = new Map<string, number>();
  private readonly nodes: FlowNode[] = [];
  private readonly waiting: { readonly state: State; readonly node: number }[] = [];
  private readonly loops = new Map<string, number>();
  private readonly begun = new Map<string, { readonly states: Set<string>; readonly times: number | null }>();

  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    private readonly writtenOut: ReadonlySet<string>,
    private readonly free: ReadonlySet<number>,
  ) {}

  /** The graph, why there is none, or which loop must be written out. */
  explore(routine: Routine, start: Float64Array, cache: MoveCache | undefined): Flow | NoFlow | string {
    try {
      this.node([begin(routine)], Interpreter.stepwise(this.rig, this.mechanism, start, cache));
      for (let next = this.waiting.pop(); next; next = this.waiting.pop())
        this.nodes[next.node] = this.next(next.state);
      return { start, nodes: this.nodes, loops: this.loops.size };
    } catch (refused) {
      if (!(refused instanceof Refused)) throw refused;
      // Laps that no run comes to may be at fault: a loop that is written out has none of them.
      const { by } = refused;
      return typeof by !== 'string' && by.why === 'fault' ? (this.wandering() ?? by) : by;
    }
  }

  /** Number of the node at a state, which is looked at later where it is new. */
  private node(places: readonly Place[], arm: Interpreter): number {
    const key = `${places.map(placeKey).join(' ')}|${arm.body.state(this.free)}`;
    const known = this.numbers.get(key);
    if (known !== undefined) return known;
    const node = this.numbers.size;
    if (node >= MOST_NODES) throw new Refused(this.no('endless', places.at(-1)!));
    this.numbers.set(key, node);
    this.waiting.push({ state: { places, arm }, node });
    return node;
  }

  private no(why: NoFlow['why'], { routine, pc }: Place): NoFlow {
    const index = Math.min(pc, routine.steps.length - 1);
    return { why, routine: routine.id, step: routine.steps[index], index };
  }

  private next({ places, arm: found }: State): FlowNode {
    const arm = found.copy();
    const place = places.at(-1)!;
    const { routine, structure, pc } = place;
    const acts = new Acts();
    const goTo = (to: number): number => this.node([...places.slice(0, -1), { ...place, pc: to }], arm);
    const go = (to: number): FlowNode => ({ acts: acts.before, next: { kind: 'go', to: goTo(to) } });
    const flush = (): void => this.all(arm.body.flush(), acts, place);
    /** The routine ends; where it was called from goes on. */
    const leave = (): FlowNode => {
      flush();
      const outer = places.at(-2);
      if (!outer) return { acts: acts.before, next: { kind: 'end', inVain: false } };
      const to = this.node([...places.slice(0, -2), { ...outer, pc: outer.pc + 1 }], arm);
      return { acts: acts.before, next: { kind: 'go', to } };
    };
    if (pc >= routine.steps.length) return leave();
    if (!structure.enabled[pc]) return go(pc + 1);
    const step = routine.steps[pc];
    const ref: StepRef = { step, index: pc, routine: routine.id, depth: places.length - 1 };
    switch (step.kind) {
      case 'call': {
        const other = this.rig.routines.find((r) => r.id === step.routine);
        if (!other) return go(pc + 1);
        if (places.length > DEEPEST) throw new Refused(this.no('fault', place));
        return { acts: acts.before, next: { kind: 'go', to: this.node([...places, begin(other)], arm) } };
      }
      case 'return':
        return leave();
      case 'counter':
        acts.add({ kind: 'counter', counter: step.counter, change: step.change });
        return go(pc + 1);
      case 'if': {
        const { when } = step;
        if ('signal' in when) break;
        const { counter, is, value } = when;
        const { other, partner } = structure;
        const beyond = other[pc] >= 0 ? other[pc] : partner[pc];
        const no = goTo(beyond < 0 ? pc + 1 : beyond + 1);
        return { acts: acts.before, next: { kind: 'compare', counter, is, value, yes: goTo(pc + 1), no } };
      }
      case 'repeat':
        if (step.times === null) flush();
        else if (this.isWrittenOut(places)) {
          if (step.times > MOST_LAPS.writtenOut) throw new Refused(this.no('endless', place));
          return this.lap(places, arm, acts, pc, step.times);
        } else acts.add({ kind: 'loop', loop: this.loop(places), times: step.times });
        this.begin(places, arm);
        return go(pc + 1);
      case 'end': {
        const opener = structure.partner[pc];
        const loop = opener >= 0 ? routine.steps[opener] : undefined;
        if (loop?.kind !== 'repeat') break;
        const opened = [...places.slice(0, -1), { ...place, pc: opener }];
        if (loop.times === null) {
          flush();
          this.begin(opened, arm);
          return go(opener + 1);
        }
        if (this.isWrittenOut(opened)) return this.lap(places, arm, acts, opener, place.left.get(opener)! - 1);
        this.begin(opened, arm);
        const [again, done] = [goTo(opener + 1), goTo(pc + 1)];
        return { acts: acts.before, next: { kind: 'lap', loop: this.loop(opened), again, done } };
      }
      case 'alongside':
      case 'pattern':
        if (this.counts(step, place)) throw new Refused(this.no('beside', place));
    }
    const done = this.step(arm.copy(), place, ref, null);
    if (!done.asks) return { acts: done.acts.before, next: this.goOn(places, done) };
    const { asks } = done;
    if (step.kind !== 'if' && step.kind !== 'wait-input' && step.kind !== 'spin')
      throw new Refused(this.no('beside', place));
    const after = (answer: InputValue): number => {
      const way = this.step(arm.copy(), place, ref, { answer });
      return this.rest(way.acts.after, this.goOn(places, way));
    };
    const { signal } = asks;
    if (asks.kind === 'read')
      return { acts: done.acts.before, next: { kind: 'read', signal, on: after(true), off: after(false) } };
    const { is, atMostS } = asks;
    const met = after(0);
    // A spin ends the same way whether its input came or not.
    const inVain = atMostS === null || step.kind === 'spin' ? met : after(null);
    return { acts: done.acts.before, next: { kind: 'await', signal, is, atMostS, met, inVain } };
  }

  /** A node for what comes after an answer: nobody comes to it by another way. */
  private rest(acts: readonly FlowAct[], next: FlowNext): number {
    if (!acts.length && next.kind === 'go') return next.to;
    const node = this.numbers.size;
    this.numbers.set(`rest ${node}`, node);
    this.nodes[node] = { acts, next };
    return node;
  }

  private goOn(places: readonly Place[], { outcome, arm }: Done): FlowNext {
    // A return is looked at before it comes to this.
    if (typeof outcome === 'string') return { kind: 'end', inVain: true };
    return { kind: 'go', to: this.node([...places.slice(0, -1), { ...places.at(-1)!, pc: outcome }], arm) };
  }

  /** What a step does until it asks something, or all of it with that answered. */
  private step(arm: Interpreter, place: Place, ref: StepRef, answered: { readonly answer: InputValue } | null): Done {
    const acts = new Acts();
    const run = arm.step(newFrame(place.routine, place.structure, ref.depth), ref, place.pc);
    for (let next = run.next(); ;) {
      if (next.done) return { arm, acts, outcome: next.value, asks: null };
      const event = next.value;
      if (event.kind === 'read' || event.kind === 'await') {
        if (!answered) return { arm, acts, outcome: 'over', asks: event };
        acts.cut();
        next = run.next(answered.answer);
      } else {
        this.take(event, acts, place);
        next = run.next();
      }
    }
  }
  private all(run: Generator<RoutineEvent, void, InputValue | undefined>, acts: Acts, place: Place): void {
    for (const event of run) this.take(event, acts, place);
  }
  private take(event: RoutineEvent, acts: Acts, place: Place): void {
    if (event.kind === 'endless') throw new Refused(this.no('beside', place));
    if (event.kind === 'problem') {
      const { code } = event.problem;
      if (code !== 'wait-in-vain' && routineFindings.entries[code].severity === 'stop')
        throw new Refused(this.no('fault', place));
    } else acts.take(event);
  }

  // ── Loops ───────────────────────────────────────────────────────────────────────────────────────────────────────

  private loopKey = (places: readonly Place[]): string =>
    places.map(({ routine, pc }) => `${routine.id}:${pc}`).join();
  private isWrittenOut = (places: readonly Place[]): boolean => this.writtenOut.has(this.loopKey(places));
  private loop(places: readonly Place[]): number {
    const key = this.loopKey(places);
    if (!this.loops.has(key)) this.loops.set(key, this.loops.size);
    return this.loops.get(key)!;
  }
  /** A lap begins in this state: in too many different ones the loop is none of the same again and again. */
  private begin(places: readonly Place[], arm: Interpreter): void {
    const key = this.loopKey(places);
    const place = places.at(-1)!;
    const { times } = place.routine.steps[place.pc] as StepOf<'repeat'>;
    const { states } = this.begun.get(key) ?? { states: new Set<string>() };
    states.add(`${placeKey(place)}|${arm.body.state(this.free)}`);
    this.begun.set(key, { states, times });
    if (states.size > MOST_LAPS.different) throw new Refused(times === null ? this.no('endless', place) : key);
  }
  /** The loop whose laps begin in the most states, of those that can be written out: from the third on they may go on and on. */
  private wandering(): string | undefined {
    return [...this.begun]
      .filter(([, { states, times }]) => times !== null && times <= MOST_LAPS.writtenOut && states.size > 2)
      .sort(([, a], [, b]) => b.states.size - a.states.size)[0]?.[0];
  }
  /** Of a loop that is written out: the next lap, or what comes after the last. */
  private lap(places: readonly Place[], arm: Interpreter, acts: Acts, opener: number, left: number): FlowNode {
    const place = places.at(-1)!;
    const laps = new Map(place.left);
    if (left > 0) laps.set(opener, left);
    else laps.delete(opener);
    const pc = left > 0 ? opener + 1 : place.structure.partner[opener] + 1;
    const to = this.node([...places.slice(0, -1), { ...place, pc, left: laps }], arm);
    return { acts: acts.before, next: { kind: 'go', to } };
  }

  /** Whether steps that are done as one have to do with counters. */
  private counts(step: StepOf<'alongside'> | StepOf<'pattern'>, { routine, structure, pc }: Place): boolean {
    const own =
      step.kind === 'alongside' ? { ...routine, steps: routine.steps.slice(pc + 1, structure.partner[pc]) } : null;
    const seen = new Set<Routine>();
    const queue = [own, this.rig.routines.find((r) => r.id === step.routine)];
    for (let at = queue.pop(); queue.length || at; at = queue.pop()) {
      if (!at || seen.has(at)) continue;
      seen.add(at);
      if (at.steps.some((s) => s.kind === 'counter' || (s.kind === 'if' && 'counter' in s.when))) return true;
      for (const id of calledBy(at)) queue.push(this.rig.routines.find((r) => r.id === id));
    }
    return false;
  }
}

/** What is done, in its order. */
class Acts {
  private readonly all: (FlowAct & { readonly at?: number })[] = [];
  private asked: number | null = null;

  add(act: FlowAct): void {
    this.all.push(act);
  }
  /** What comes from here on comes after an answer. */
  cut(): void {
    this.asked = this.all.length;
  }
  get before(): readonly FlowAct[] {
    return this.all.slice(0, this.asked ?? this.all.length);
  }
  get after(): readonly FlowAct[] {
    return this.all.slice(this.asked ?? this.all.length);
  }

  take(event: RoutineEvent): void {
    switch (event.kind) {
      case 'output':
        this.all.push({ kind: 'output', signal: event.signal, on: event.on, at: event.atS });
        break;
      case 'power':
        this.all.push({ kind: 'power', joints: event.joints, on: event.on, at: event.atS });
        break;
      case 'block': {
        // What tracks beside each other switch is said before their motion is.
        const during: (FlowSwitch & { readonly atS: number })[] = [];
        for (
          let last = this.all.at(-1);
          last?.at !== undefined && last.at > event.atS + NEAR;
          last = this.all.at(-1)
        ) {
          const { at, ...act } = this.all.pop() as FlowSwitch & { at: number };
          during.unshift({ ...act, atS: at - event.atS });
        }
        this.all.push({ kind: 'block', block: event.block, during: during.sort((a, b) => a.atS - b.atS) });
        break;
      }
      default:
    }
  }
}
