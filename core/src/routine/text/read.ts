/** The plain sentences of a routine, read. What is not one of them is a fault with its line and column; nothing is made up. */
import type { Fault } from '../../findings';
import { routineFindings } from '../findings';
import {
  codeName,
  stepSchema,
  type Condition,
  type Pace,
  type Places,
  type Rig,
  type Step,
  type Target,
} from '../../rig';
import { withIds } from './ids';
import { shown, Stop, tokensOf, type Token } from './tokens';
import { keepWords, profileWords } from './write';

const { fault } = routineFindings;

/** A share of what is typed in percent, as it would be saved. */
const shareOfPercent = (percent: number): number => Number((percent / 100).toPrecision(15));

type Body = Record<string, unknown>;

class Sentence {
  private at = 0;

  constructor(
    private readonly rig: Rig,
    private readonly tokens: readonly Token[],
  ) {}

  private get next(): Token {
    return this.tokens[this.at];
  }
  private fail(expected: string): never {
    throw new Stop(this.next.column, expected, shown(this.next));
  }
  /** Whether the words come next, in any case of letters; they are passed if so. */
  private has(...words: string[]): boolean {
    const fits = words.every((word, k) => {
      const token = this.tokens[this.at + k];
      return token !== undefined && token.kind !== 'text' && token.text.toLowerCase() === word.toLowerCase();
    });
    if (fits) this.at += words.length;
    return fits;
  }
  private need(...words: string[]): void {
    if (!this.has(...words)) this.fail(`“${words.join(' ')}”`);
  }
  private number(): number {
    if (this.next.kind !== 'number') this.fail('a number');
    return Number(this.tokens[this.at++].text);
  }
  private text(what: string): string {
    if (this.next.kind !== 'text') this.fail(`${what} in quotes`);
    return this.tokens[this.at++].text;
  }
  private xyz(): [number, number, number] {
    return [this.number(), this.number(), this.number()];
  }
  /** The id of something by its name in quotes, or by #id. */
  private named(list: readonly { id: string; name?: string }[], what: string): string {
    if (this.next.kind === 'id') return this.tokens[this.at++].text;
    const { column } = this.next;
    const name = this.text(`the name of a ${what}`);
    const found = list.filter((item) => item.name === name);
    if (found.length === 1) return found[0].id;
    throw new Stop(
      column,
      found.length ? `one ${what} (several are called that; write #id)` : `a ${what} that is there`,
      `“${name}”`,
    );
  }
  private joint(): string {
    if (this.next.kind === 'id') return this.tokens[this.at++].text;
    const found = this.rig.mechanism.joints.find((j) => codeName(j) === this.next.text && this.next.kind === 'word');
    if (!found) this.fail('the code name of a joint');
    this.at++;
    return found.id;
  }
  private isJoint(): boolean {
    const { next } = this;
    return (
      (next.kind === 'id' || next.kind === 'word') &&
      this.tokens[this.at + 1]?.kind === 'number' &&
      !(next.kind === 'word' && !this.rig.mechanism.joints.some((j) => codeName(j) === next.text))
    );
  }
  private values(): Record<string, number> {
    const values: Record<string, number> = {};
    while (this.isJoint()) {
      const id = this.joint();
      values[id] = this.number();
    }
    return values;
  }
  private jointList(): string[] {
    const list = [this.joint()];
    while (this.next.kind === 'id' || this.next.kind === 'word') list.push(this.joint());
    return list;
  }
  private signal(way: 'in' | 'out'): string {
    return this.named(
      this.rig.signals.filter((s) => s.way === way),
      way === 'in' ? 'input' : 'output',
    );
  }
  private onOff(): boolean {
    if (this.has('on')) return true;
    if (this.has('off')) return false;
    return this.fail('“on” or “off”');
  }
  private tool(): string {
    this.need('tool');
    return this.named(this.rig.mechanism.tools, 'tool');
  }
  private payload(): string {
    this.need('payload');
    return this.named(this.rig.payloads, 'payload');
  }
  private percent(): number {
    const value = shareOfPercent(this.number());
    this.need('%');
    return value;
  }

  private target(): Target {
    if (this.has('pose')) return { pose: this.named(this.rig.poses, 'pose') };
    if (this.has('spot')) {
      const spot = this.named(this.rig.spots, 'spot');
      if (this.has('pointing', 'freely')) return { spot, direction: null };
      return this.has('pointing') ? { spot, direction: this.xyz() } : { spot };
    }
    if (this.has('joints', 'from', 'here')) return { shift: { joints: this.values() } };
    if (this.has('joints')) return { joints: this.values() };
    if (this.next.kind === 'number') {
      const xyzMm = this.xyz();
      this.need('mm', 'from', 'here');
      return { shift: { xyzMm, along: this.has('along', 'the', 'tool') ? 'tool' : 'world' } };
    }
    return this.fail('“pose”, “spot”, “joints”, or three numbers in mm');
  }

  private places(): Places {
    const spot = (): string => {
      this.need('spot');
      return this.named(this.rig.spots, 'spot');
    };
    if (this.has('grid', 'from')) {
      const from = spot();
      this.need('of');
      const columns = this.number();
      this.need('by');
      const rows = this.number();
      this.need('columns');
      const columnMm = this.xyz();
      this.need('mm', 'rows');
      const rowMm = this.xyz();
      this.need('mm');
      return { kind: 'grid', spot: from, columns, rows, columnMm, rowMm };
    }
    if (this.has('ring', 'about')) {
      const about = spot();
      this.need('of');
      const count = this.number();
      this.need('radius');
      const radiusMm = this.number();
      this.need('mm', 'from');
      const firstDeg = this.number();
      this.need('deg');
      return { kind: 'ring', spot: about, count, radiusMm, firstDeg };
    }
    if (!this.has('list')) return this.fail('“grid from”, “ring about” or “list”');
    const pointsMm: [number, number, number][] = [];
    while (this.next.kind === 'number') {
      pointsMm.push(this.xyz());
      if (!this.has(';')) break;
    }
    return { kind: 'list', pointsMm };
  }

  private condition(): Condition {
    if (this.has('input')) return { signal: this.signal('in'), is: this.onOff() };
    this.need('counter');
    const counter = this.text('the name of a counter');
    const is = (['below', 'equal', 'above'] as const).find((word) => this.has(word));
    return is ? { counter, is, value: this.number() } : this.fail('“below”, “equal” or “above”');
  }

  /** The clause that begins every sentence. */
  private head(): Body {
    if (this.has('Joint', 'move', 'to')) return { kind: 'joint-move', target: this.target() };
    if (this.has('Straight', 'move', 'to')) return { kind: 'straight-move', target: this.target() };
    if (this.has('Arc', 'through')) {
      const via = this.target();
      this.need('to');
      return { kind: 'arc', via, target: this.target() };
    }
    if (this.has('Full', 'circle', 'through')) {
      const via = this.target();
      this.need('and');
      return { kind: 'circle', via, second: this.target(), turns: 1 };
    }
    if (this.has('Path', 'to')) {
      const through = [this.target()];
      while (this.has('then')) through.push(this.target());
      return { kind: 'path', through };
    }
    if (this.has('Approach')) {
      const target = this.target();
      this.need(',', 'last');
      const distanceMm = this.number();
      this.need('mm', 'straight');
      return { kind: 'approach', target, distanceMm };
    }
    if (this.has('Retreat')) {
      const distanceMm = this.number();
      this.need('mm');
      return { kind: 'retreat', distanceMm };
    }
    if (this.has('Grip', 'with')) {
      const tool = this.tool();
      this.need('to');
      if (this.has('open')) return { kind: 'grip', tool, to: 'open' };
      if (this.has('closed')) return { kind: 'grip', tool, to: 'closed' };
      if (this.has('value')) return { kind: 'grip', tool, to: this.number() };
      if (this.has('around')) {
        const aroundMm = this.number();
        this.need('mm');
        return { kind: 'grip', tool, to: { aroundMm } };
      }
      this.need('opening');
      const openingMm = this.number();
      this.need('mm');
      return { kind: 'grip', tool, to: { openingMm } };
    }
    if (this.has('Spin', 'joint')) return this.spin();
    if (this.has('Pattern')) {
      const places = this.places();
      this.need(',', 'approach');
      const approachMm = this.number();
      this.need('mm');
      return { kind: 'pattern', places, approachMm, direction: null, routine: null };
    }
    if (this.has('Wait', 'for', 'input'))
      return { kind: 'wait-input', signal: this.signal('in'), is: this.onOff(), timeoutS: null, otherwise: 'stop' };
    if (this.has('Wait')) {
      const durationS = this.number();
      this.need('s');
      return { kind: 'wait', durationS };
    }
    if (this.has('Set', 'output')) return { kind: 'output', signal: this.signal('out'), on: this.onOff() };
    if (this.has('Hold', 'joints')) return { kind: 'hold', joints: this.jointList() };
    if (this.has('Let', 'go', 'joints')) return { kind: 'let-go', joints: this.jointList() };
    if (this.has('Pick', 'up')) {
      const payload = this.payload();
      this.need('with');
      return { kind: 'pick-up', payload, tool: this.tool() };
    }
    if (this.has('Put', 'down', 'with')) return { kind: 'put-down', tool: this.tool() };
    if (this.has('Swap')) {
      const off = this.has('nothing') ? null : this.tool();
      this.need('for');
      return { kind: 'swap-tool', off, on: this.has('nothing') ? null : this.tool() };
    }
    if (this.has('Speed', 'of', 'all')) return { kind: 'speed', share: this.percent() };
    if (this.has('Marker')) return { kind: 'marker', name: this.text('the name of the marker') };
    if (this.has('Jump', 'to')) return { kind: 'jump', to: this.text('the name of a marker') };
    if (this.has('Repeat', 'for', 'ever')) return { kind: 'repeat', times: null };
    if (this.has('Repeat')) {
      const times = this.number();
      this.need('times');
      return { kind: 'repeat', times };
    }
    if (this.has('If')) return { kind: 'if', when: this.condition() };
    if (this.has('Otherwise')) return { kind: 'else' };
    if (this.has('Counter')) {
      const counter = this.text('the name of a counter');
      if (this.has('set')) return { kind: 'counter', counter, change: { set: this.number() } };
      this.need('add');
      return { kind: 'counter', counter, change: { add: this.number() } };
    }
    if (this.has('Call')) return { kind: 'call', routine: this.named(this.rig.routines, 'routine') };
    if (this.has('Return')) return { kind: 'return' };
    if (this.has('Alongside')) return { kind: 'alongside', routine: this.named(this.rig.routines, 'routine') };
    if (this.has('Group')) return { kind: 'group', name: this.text('the name of the group') };
    if (this.has('End')) return { kind: 'end' };
    if (this.has('Note')) return { kind: 'note' };
    return this.fail('the begin of a step, such as “Joint move to” or “Wait”');
  }

  private spin(): Body {
    const joint = this.joint();
    this.need('at');
    const speed = this.number();
    if (this.has('until', 'stopped')) return { kind: 'spin', joint, speed, until: 'stopped' };
    if (this.has('for')) {
      const forS = this.number();
      this.need('s');
      return { kind: 'spin', joint, speed, until: { forS } };
    }
    this.need('until', 'input');
    const signal = this.signal('in');
    const is = this.onOff();
    this.need('within');
    const atMostS = this.number();
    this.need('s');
    return { kind: 'spin', joint, speed, until: { signal, is, atMostS } };
  }

  private pace(): Pace {
    if (this.has('in')) {
      const durationS = this.number();
      this.need('s');
      return { durationS };
    }
    this.need('at');
    const value = this.number();
    if (this.has('mm/s')) return { mmPerS: value };
    this.need('%');
    const speedShare = shareOfPercent(value);
    if (!this.has('with')) return { speedShare };
    const accelShare = this.percent();
    this.need('acceleration');
    return { speedShare, accelShare };
  }

  /** One of the clauses that may follow, put into the step. */
  private clause(body: Body): void {
    const { kind } = body;
    const moves = [
      'joint-move',
      'straight-move',
      'arc',
      'circle',
      'path',
      'approach',
      'retreat',
      'pattern',
      'grip',
    ].includes(kind as string);
    if (this.has('skipped')) body.enabled = false;
    else if (this.has('note')) body.note = this.text('a note');
    else if (kind === 'joint-move' && this.has('each', 'at', 'its', 'own', 'pace')) body.arrive = 'own-pace';
    else if (kind === 'approach' && this.has('slowly', 'at')) {
      body.lastMmPerS = this.number();
      this.need('mm/s');
    } else if (kind === 'grip' && this.has('stop', 'at')) {
      body.stopAtN = this.number();
      this.need('N');
    } else if (kind === 'grip' && this.has('letting', 'go')) body.payload = null;
    else if (kind === 'grip' && this.has('holding')) body.payload = this.payload();
    else if (kind === 'pattern' && this.has('pointing')) body.direction = this.xyz();
    else if (kind === 'pattern' && this.has('calling')) body.routine = this.named(this.rig.routines, 'routine');
    else if (kind === 'wait-input' && this.has('at', 'most')) {
      body.timeoutS = this.number();
      this.need('s');
    } else if (kind === 'wait-input' && this.has('then', 'stop')) body.otherwise = 'stop';
    else if (kind === 'wait-input' && this.has('then', 'go', 'on')) body.otherwise = 'go-on';
    else if (kind === 'wait-input' && this.has('then', 'jump', 'to'))
      body.otherwise = { jump: this.text('the name of a marker') };
    else if (kind === 'circle' && this.next.kind === 'number') {
      body.turns = this.number();
      this.need('times');
    } else if (moves && kind !== 'grip' && this.has('with')) body.tool = this.tool();
    else if (moves && this.has('rounded', 'by')) {
      body.blendMm = this.number();
      this.need('mm');
    } else {
      const along = ['straight-move', 'arc', 'circle', 'path', 'approach', 'retreat'].includes(kind as string);
      const keep = Object.entries(keepWords).find(([, words]) => along && this.has(...words.split(' ')));
      if (keep) {
        body.keep = keep[0];
        return;
      }
      const profile = Object.entries(profileWords).find(([, words]) => moves && this.has(...words.split(' ')));
      if (profile) body.profile = profile[0];
      else if (moves && (this.next.text === 'at' || this.next.text === 'in')) body.pace = this.pace();
      else this.fail('a pace, a profile, “note” or “skipped”');
    }
  }

  read(): Body {
    const body: Body = { enabled: true, note: '', ...this.head() };
    while (this.has(',')) this.clause(body);
    if (this.next.kind !== 'end') this.fail('a comma or the end of the line');
    return body;
  }
}

export type ParsedRoutine = { ok: true; steps: Step[] } | { ok: false; faults: Fault[] };

/** Empty lines are passed over. Steps that say the same as one of `before` keep its id. */
export function parseRoutine(rig: Rig, text: string, before: readonly Step[] = []): ParsedRoutine {
  const faults: Fault[] = [];
  const bodies: Body[] = [];
  text.split(/\r?\n/).forEach((line, k) => {
    if (line.trim() === '') return;
    const at = (column: number): string => `Line ${k + 1}, column ${column}`;
    try {
      const body = new Sentence(rig, tokensOf(line)).read();
      const parsed = stepSchema.safeParse({ id: 'step', ...body });
      if (parsed.success) {
        const { id: _id, ...rest } = parsed.data;
        bodies.push(rest);
        return;
      }
      const [issue] = parsed.error.issues;
      const expected =
        issue.path[0] === 'pace'
          ? 'a pace, such as “at 50 %”, in its range'
          : `${issue.path.join(' ')}: ${issue.message.toLowerCase()}`;
      faults.push(
        fault('text-step', at(1), expected, `“${line.trim().slice(0, 40)}”`, {
          expected,
          got: `“${line.trim().slice(0, 40)}”`,
        }),
      );
    } catch (error) {
      if (!(error instanceof Stop)) throw error;
      const { expected, got } = error;
      faults.push(fault('text-step', at(error.column), expected, got, { expected, got }));
    }
  });
  return faults.length ? { ok: false, faults } : { ok: true, steps: withIds(bodies, before) };
}
