/**
 * What a person may type into a number field: a number, a sum ("62 + 38", "280/2"), a unit ("5.5 in", "12 cm"),
 * a mixed number of inches ("5 1/2 in"), a decimal comma. The result is in the dimension's own unit.
 */

export type Dimension =
  | 'length'
  | 'angle'
  | 'mass'
  | 'time'
  | 'pulse'
  | 'ratio'
  | 'share'
  | 'speed'
  | 'angularSpeed'
  | 'angularAccel'
  | 'angularJerk'
  | 'linearAccel'
  | 'linearJerk'
  | 'torque'
  | 'force'
  | 'charge'
  | 'hours'
  | 'current'
  | 'temperature'
  | 'resistance'
  | 'stiffness'
  | 'pulsePerDegree'
  | 'count'
  | 'address';

interface DimensionInfo {
  /** The unit values are kept and shown in. */
  unit: string;
  /** Factor from each accepted unit to the kept one. */
  units: Record<string, number>;
  /** Most decimals worth showing. */
  decimals: number;
}

const IN = 25.4;
export const dimensions: Record<Dimension, DimensionInfo> = {
  length: { unit: 'mm', units: { mm: 1, cm: 10, m: 1000, in: IN, '"': IN, ft: 12 * IN, "'": 12 * IN }, decimals: 2 },
  angle: { unit: '°', units: { '°': 1, deg: 1, rad: 180 / Math.PI, turn: 360, turns: 360 }, decimals: 2 },
  mass: { unit: 'g', units: { g: 1, kg: 1000, oz: 28.349523125, lb: 453.59237 }, decimals: 1 },
  time: { unit: 's', units: { s: 1, ms: 0.001, min: 60 }, decimals: 3 },
  pulse: { unit: 'µs', units: { µs: 1, μs: 1, us: 1, ms: 1000 }, decimals: 1 },
  ratio: { unit: '', units: {}, decimals: 4 },
  share: { unit: '%', units: { '%': 1 }, decimals: 1 },
  speed: { unit: 'mm/s', units: { 'mm/s': 1, 'cm/s': 10, 'm/s': 1000, 'in/s': IN }, decimals: 1 },
  angularSpeed: { unit: '°/s', units: { '°/s': 1, 'deg/s': 1, 'rad/s': 180 / Math.PI, rpm: 6 }, decimals: 1 },
  angularAccel: { unit: '°/s²', units: { '°/s²': 1, 'deg/s2': 1, 'rad/s2': 180 / Math.PI }, decimals: 0 },
  angularJerk: { unit: '°/s³', units: { '°/s³': 1, 'deg/s3': 1 }, decimals: 0 },
  linearAccel: { unit: 'mm/s²', units: { 'mm/s²': 1, 'mm/s2': 1, 'm/s2': 1000 }, decimals: 0 },
  linearJerk: { unit: 'mm/s³', units: { 'mm/s³': 1, 'mm/s3': 1 }, decimals: 0 },
  torque: {
    unit: 'N·m',
    units: { 'N·m': 1, nm: 1, 'kg·cm': 0.0980665, kgcm: 0.0980665, 'kg cm': 0.0980665, 'oz·in': 0.00706155181 },
    decimals: 3,
  },
  force: { unit: 'N', units: { N: 1, kN: 1000, kgf: 9.80665, lbf: 4.4482216 }, decimals: 2 },
  charge: { unit: 'mAh', units: { mAh: 1, Ah: 1000 }, decimals: 0 },
  current: { unit: 'A', units: { A: 1, mA: 0.001 }, decimals: 2 },
  temperature: { unit: '°C', units: { '°C': 1, C: 1 }, decimals: 1 },
  resistance: { unit: 'Ω', units: { Ω: 1, ohm: 1, mΩ: 0.001 }, decimals: 2 },
  stiffness: { unit: 'N·m/°', units: { 'N·m/°': 1, 'nm/deg': 1 }, decimals: 3 },
  hours: { unit: 'h', units: { h: 1, min: 1 / 60 }, decimals: 2 },
  pulsePerDegree: { unit: 'µs/°', units: { 'µs/°': 1, 'us/deg': 1 }, decimals: 3 },
  count: { unit: '', units: {}, decimals: 0 },
  /** On a bus; may be typed as 0x40. */
  address: { unit: '', units: {}, decimals: 0 },
};

export type ParsedQuantity = { ok: true; value: number } | { ok: false; message: string };

/** Parses what was typed. The message of a refusal is one sentence that quotes the part not understood. */
export function parseQuantity(text: string, dimension: Dimension): ParsedQuantity {
  const { unit, units } = dimensions[dimension];
  const source = text
    .trim()
    .replace(/−/g, '-')
    .replace(/×/g, '*')
    .replace(/÷/g, '/')
    .replace(/(\d),(\d)/g, '$1.$2');
  const allowed = Object.keys(units)
    .filter((u) => /^[a-z°%µ/]/i.test(u))
    .slice(0, 5)
    .join(', ');
  const example = `a number${unit ? ` in ${unit}` : ''}${allowed.includes(',') ? ` (or ${allowed})` : ''}, or a sum such as 62 + 38`;
  if (source === '') return { ok: false, message: `Nothing was typed; expected ${example}.` };
  let at = 0;
  const unitNames = Object.keys(units).sort((a, b) => b.length - a.length);
  const skip = (): void => {
    while (source[at] === ' ' || source[at] === '\u00a0') at++;
  };
  const fail = (): never => {
    throw new SyntaxError(`Could not read “${source.slice(at, at + 12) || text.trim()}”; expected ${example}.`);
  };
  const readNumber = (): number => {
    const hex = dimension === 'address' ? /^0x([0-9a-f]{1,4})(?![0-9a-z.])/i.exec(source.slice(at)) : null;
    if (hex) {
      at += hex[0].length;
      return parseInt(hex[1], 16);
    }
    const match = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/i.exec(source.slice(at));
    if (!match) return fail();
    at += match[0].length;
    const fraction = /^\s+(\d+)\/(\d+)(?![\d.])/.exec(source.slice(at));
    if (fraction && Number.isInteger(Number(match[0])) && Number(fraction[2]) !== 0) {
      at += fraction[0].length;
      return Number(match[0]) + Number(fraction[1]) / Number(fraction[2]);
    }
    return Number(match[0]);
  };
  const readUnit = (): number | null => {
    skip();
    const rest = source.slice(at).toLowerCase();
    const name = unitNames.find(
      (u) => rest.startsWith(u.toLowerCase()) && !/^[a-z]/i.test(endsInLetter(u) ? rest.slice(u.length) : ''),
    );
    if (!name) return null;
    at += name.length;
    return units[name];
  };
  // `factor` null: a bare number, which counts in the kept unit.
  interface Term {
    value: number;
    factor: number | null;
  }
  const primary = (depth: number): Term => {
    if (depth > 32) return fail();
    skip();
    if (source[at] === '-' || source[at] === '+') {
      const sign = source[at++] === '-' ? -1 : 1;
      const t = primary(depth + 1);
      return { value: sign * t.value, factor: t.factor };
    }
    let value: number;
    if (source[at] === '(') {
      at++;
      const inner = sum(depth + 1);
      skip();
      if (source[at] !== ')') return fail();
      at++;
      if (inner.factor !== null) return inner;
      value = inner.value;
    } else value = readNumber();
    const factor = readUnit();
    return { value: factor === null ? value : value * factor, factor };
  };
  const product = (depth: number): Term => {
    let left = primary(depth);
    for (;;) {
      skip();
      const op = source[at];
      if (op !== '*' && op !== '/') {
        const late = left.factor === null ? readUnit() : null;
        return late === null ? left : { value: left.value * late, factor: late };
      }
      at++;
      const right = primary(depth + 1);
      // In "1/2 in" the unit belongs to the quotient, not to the divisor.
      const divisor =
        op === '/' && left.factor === null && right.factor !== null ? right.value / right.factor ** 2 : right.value;
      const value = op === '*' ? left.value * right.value : left.value / divisor;
      left = { value, factor: left.factor ?? right.factor };
    }
  };
  const sum = (depth: number): Term => {
    let left = product(depth);
    for (;;) {
      skip();
      const op = source[at];
      if (op !== '+' && op !== '-') return left;
      at++;
      const right = product(depth + 1);
      left = {
        value: op === '+' ? left.value + right.value : left.value - right.value,
        factor: left.factor ?? right.factor,
      };
    }
  };
  try {
    const { value } = sum(0);
    skip();
    if (at < source.length) fail();
    if (!Number.isFinite(value))
      return { ok: false, message: `“${text.trim()}” has no finite value; expected ${example}.` };
    return { ok: true, value };
  } catch (error) {
    if (error instanceof SyntaxError) return { ok: false, message: error.message };
    throw error;
  }
}

const endsInLetter = (unit: string): boolean => /[a-z]$/i.test(unit);

/** Number with at most `decimals` decimals (the dimension's own by default), no trailing zeros, a real minus sign. */
export function formatNumber(value: number, decimals: number): string {
  if (!Number.isFinite(value)) return '–';
  const text = value.toFixed(decimals);
  const short = text.includes('.') ? text.replace(/\.?0+$/, '') : text;
  return (short === '-0' ? '0' : short).replace('-', '−');
}

/** Number with just so many decimals, for columns and figures that change under the eye; a real minus sign, no −0. */
export function formatFixed(value: number, decimals: number): string {
  if (!Number.isFinite(value)) return '–';
  const text = value.toFixed(decimals);
  return (Number(text) === 0 ? text.replace('-', '') : text).replace('-', '−');
}

/** A length or an angle with as many digits as it deserves: 123, 4.7, 0.25, 0.003; less than that is "under 0.001". */
export function formatAmount(value: number): string {
  const size = Math.abs(value);
  if (size > 0 && size < 0.001) return 'under 0.001';
  // One digit more for each power of ten below 9.95; never more than three.
  const decimals =
    size >= 9.95 || size === 0 ? 0 : Math.min(3, Math.max(1, 1 - Math.floor(Math.log10(size * 1.005))));
  return formatNumber(value, decimals);
}

/** Number and unit for reading: "140 mm", "12.4°", "61 %". */
export function formatQuantity(
  value: number,
  dimension: Dimension,
  decimals = dimensions[dimension].decimals,
): string {
  const { unit } = dimensions[dimension];
  const number = formatNumber(value, decimals);
  if (unit === '') return number;
  return unit.startsWith('°') ? number + unit : `${number} ${unit}`;
}
