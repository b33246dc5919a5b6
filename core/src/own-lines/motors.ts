/** Motors as lines of a builder's own speak of them. */
import { names, type LineTemplate, type Part, type Parts } from './template';

export interface LineMotor {
  readonly channel: number;
  /** As it is called in code. */
  readonly id: string;
  readonly name: string;
  readonly unit: 'µs' | 'counts' | 'steps';
  /** Whether what it is sent brings a joint to a place: not where it is a speed, or where a motor of another line has a part in it. */
  readonly hasPlace: boolean;
}
/** A motor's value in its own unit (whole or not), and where its joint is: ° or mm, and rad or m; null where it moves none. */
export interface MotorPlace {
  readonly native: number;
  readonly joint: { readonly inUnit: number; readonly si: number } | null;
}

/** What a link by own lines can do beside sending places. */
export interface OwnLines {
  /** Something answers each line. */
  readonly confirms: boolean;
  readonly switches: boolean;
  /** Lines say which motor they are about: one can be on alone. */
  readonly single: boolean;
  /** Motors go off one by one; all of them. */
  readonly letsGo: boolean;
  readonly turnsOff: boolean;
}
export const ownLinesOf = ({ off, output, reply }: LineTemplate, parts: Parts): OwnLines => ({
  ...{ confirms: reply !== '', switches: output !== '', single: names(parts.each) },
  ...{ letsGo: off !== '' && names(parts.off), turnsOff: off !== '' },
});

const asks = (parts: readonly Part[], name: string): boolean =>
  parts.some((part) => typeof part !== 'string' && part.name === name);
/** Why these motors cannot be spoken of by a template, one sentence; null where they can. */
export function unspoken({ each }: Parts, motors: readonly LineMotor[]): string | null {
  const counted = asks(each, 'counts') && motors.find(({ unit }) => unit !== 'µs');
  if (counted)
    return `{counts} stands for a pulse, and ${counted.name} is sent ${counted.unit}; {value} stands for those`;
  const lost = (asks(each, 'joint') || asks(each, 'rad')) && motors.find(({ hasPlace }) => !hasPlace);
  if (lost)
    return `{joint} and {rad} stand for the place of a joint, and ${lost.name} brings none to one by itself; {value} stands for what it is sent`;
  return null;
}
