/**
 * Firmware that is not there: reads the lines of a template as somebody's own would, and moves motors by them. What it cannot read it
 * leaves alone, as most do.
 */
import { simulatedMotor, type SimulatedChannel, type SimulatedMotor } from '../board';
import { COUNTS_PER_US, motorFields } from './lines';
import { fill, LINE_ENDS, names, type Field, type LineTemplate, type Part, type Parts } from './template';
import type { LineMotor } from './motors';

const MICROS = 1000;
const NUMBER = '-?\\d+(?:\\.\\d+)?';

interface Wired {
  readonly motor: LineMotor;
  readonly simulated: SimulatedMotor;
  isOn: boolean;
  at: number;
}

/** Values that bring the joints of motors (by channel) to places: ° or mm, or rad or m. */
export type NativesOf = (joints: ReadonlyMap<number, JointPlace>) => ReadonlyMap<number, number>;
export type JointPlace = { readonly inUnit: number } | { readonly si: number };

export class LineStandIn {
  private readonly motors: readonly Wired[];
  private readonly said: string[] = [];
  private readonly levels = new Map<number, number>();
  /** Where joints of motors were said to be last. */
  private readonly joints = new Map<number, JointPlace>();
  private heard = '';
  private micros = 0;
  /** Lines that it could make nothing of. */
  unread = 0;

  constructor(
    private readonly template: LineTemplate,
    private readonly parts: Parts,
    motors: readonly LineMotor[],
    channels: readonly SimulatedChannel[],
    private readonly outputs: readonly { readonly channel: number; readonly id: string }[],
    private readonly nativesOf: NativesOf,
  ) {
    this.motors = motors.map((motor) => {
      const { motor: model, restsAt } = channels.find(({ channel }) => channel === motor.channel)!;
      return { motor, simulated: simulatedMotor(model, restsAt), isOn: false, at: restsAt };
    });
  }

  motorAt(channel: number): SimulatedMotor | null {
    return this.motors.find(({ motor }) => motor.channel === channel)?.simulated ?? null;
  }
  /** Level of an output; null before it was told any. */
  levelAt(channel: number): number | null {
    return this.levels.get(channel) ?? null;
  }

  /** It begins anew: nothing is on, and half a line is forgotten. */
  restart(): void {
    this.heard = '';
    for (const wired of this.motors) wired.isOn = false;
  }
  write(bytes: Uint8Array): void {
    const end = LINE_ENDS[this.template.end];
    for (const byte of bytes) this.heard += String.fromCharCode(byte);
    for (let k = this.heard.indexOf(end); k >= 0; k = this.heard.indexOf(end)) {
      this.take(this.heard.slice(0, k));
      this.heard = this.heard.slice(k + end.length);
    }
  }
  read(): Uint8Array[] {
    return this.said.splice(0).map((text) => new TextEncoder().encode(`${text}\n`));
  }
  advance(dtMicros: number): void {
    for (this.micros += dtMicros; this.micros >= MICROS; this.micros -= MICROS)
      for (const { simulated, isOn, at } of this.motors) {
        simulated.command(isOn ? Math.round(at) : null);
        simulated.advance(MICROS / 1e6);
      }
  }

  private take(line: string): void {
    const { template } = this;
    const isRead = this.takeSwitch(line) || this.takeValues(line);
    if (!isRead) this.unread++;
    else if (template.reply) this.said.push(template.reply);
  }
  private takeSwitch(line: string): boolean {
    const { parts, template, motors, outputs } = this;
    const isOf = (
      text: readonly Part[],
      k: number,
      motor: { readonly channel: number; readonly id: string },
      level = 0,
    ): boolean => fill(text, { ...motorFields(motor, k), level }) === line;
    let found = false;
    for (const [text, isOn] of [
      ...(template.on ? [[parts.on, true] as const] : []),
      ...(template.off ? [[parts.off, false] as const] : []),
    ])
      for (const [k, wired] of motors.entries())
        if (isOf(text, k, wired.motor)) {
          wired.isOn = isOn;
          found = true;
        }
    for (const [k, output] of template.output ? outputs.entries() : [])
      for (const level of [0, 1])
        if (isOf(parts.output, k, output, level)) {
          this.levels.set(output.channel, level);
          found = true;
        }
    return found;
  }
  private takeValues(line: string): boolean {
    const { parts, motors, template } = this;
    const whole = new RegExp(`^${source(parts.head)}(.*)${source(parts.tail)}$`).exec(line);
    if (!whole) return false;
    const each = new RegExp(`^${source(parts.each, true)}`);
    let rest = whole[1];
    for (let k = 0; rest !== ''; k++) {
      if (k > 0 && !rest.startsWith(template.separator)) return false;
      if (k > 0) rest = rest.slice(template.separator.length);
      const found = each.exec(rest);
      if (!found) return false;
      rest = rest.slice(found[0].length);
      this.takeMotor(found.slice(1), k, motors);
    }
    for (const [channel, value] of this.joints.size ? this.nativesOf(this.joints) : [])
      for (const wired of motors) if (wired.motor.channel === channel) wired.at = value;
    return true;
  }
  private takeMotor(texts: readonly string[], k: number, motors: readonly Wired[]): void {
    const { each } = this.parts;
    const fields = each.filter((part): part is Field => typeof part !== 'string');
    const said = fields.map((field, i) => ({ field, text: texts[i] }));
    const isNamed = ({ motor }: Wired, no: number): boolean =>
      said.every(({ field, text }) => {
        if (field.name === 'id') return motor.id === text;
        const is = field.name === 'channel' ? motor.channel : field.name === 'no' ? no + 1 : null;
        return is === null || fill([field], { [field.name]: is }) === text;
      });
    const wired = names(each) ? motors.find(isNamed) : motors[k];
    if (!wired) return;
    // Without a line that switches it on, a motor follows from its first value on.
    if (!this.template.on) wired.isOn = true;
    const { channel } = wired.motor;
    for (const { field, text } of said) {
      const value = (Number(text) - field.offset) / field.factor;
      if (field.name === 'value') wired.at = value;
      else if (field.name === 'counts') wired.at = value / COUNTS_PER_US;
      else if (field.name === 'joint') this.joints.set(channel, { inUnit: value });
      else if (field.name === 'rad') this.joints.set(channel, { si: value });
    }
  }
}

/** Text as a pattern: fields are numbers, and names; in brackets where they are wanted. */
function source(parts: readonly Part[], wanted = false): string {
  const open = wanted ? '(' : '(?:';
  return parts
    .map((part) => {
      if (typeof part === 'string') return part.replace(/[^\w\s]/g, '\\$&');
      return `${open}${part.name === 'id' ? '[\\w-]+?' : NUMBER})`;
    })
    .join('');
}
