import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodeHost, boardReader, type HostMessage } from '../board';
import {
  LinePlayer,
  LineStandIn,
  readTemplate,
  readText,
  unspoken,
  usualTemplate,
  type LineMotor,
  type LineTemplate,
} from '.';

const read = (template: LineTemplate) => {
  const parts = readTemplate(template);
  if (!parts.ok) throw new Error(`${parts.at}: ${parts.message}`);
  return parts.value;
};
const made = (change: Partial<LineTemplate> = {}): LineTemplate => ({ ...usualTemplate, ...change });
const motors: LineMotor[] = [
  { channel: 3, id: 'turn', name: 'Turntable', unit: 'µs', hasPlace: true },
  { channel: 7, id: 'lift', name: 'Lift', unit: 'µs', hasPlace: true },
  { channel: 12, id: 'jaw', name: 'Jaw', unit: 'µs', hasPlace: true },
];
/** A degree is ten µs, and 1500 µs are 0°. */
const toDeg = (us: number): number => (us - 1500) / 10;
const RAD = Math.PI / 180;
const places = (natives: readonly number[]) =>
  natives.map((native) => ({ native, joint: { inUnit: toDeg(native), si: toDeg(native) * RAD } }));
const wired = motors.map(({ channel }) => ({
  ...{ channel, restsAt: 1500 },
  motor: { kind: 'servo', speedPerS: 5000, deadBand: 0, min: 500, max: 2500 } as const,
}));

/** A player that is told by the protocol, and a stand-in at the other end of its lines. */
function pair(template: LineTemplate, outputs = [{ channel: 20, id: 'lamp' }]) {
  const parts = read(template);
  const player = new LinePlayer(template, parts, 32, motors, [1500, 1500, 1500], outputs, places);
  const stand = new LineStandIn(template, parts, motors, wired, outputs, (joints) => {
    const at = [...joints].map(
      ([channel, j]) => [channel, 1500 + 10 * ('si' in j ? j.si / RAD : j.inUnit)] as [number, number],
    );
    return new Map(at);
  });
  const lines: { atMs: number; text: string }[] = [];
  const answers: string[] = [];
  const reader = boardReader();
  let number = 0;
  let now = 0;
  let isCut = false;
  const pass = (): void => {
    for (const text of player.lines()) {
      lines.push({ atMs: now, text });
      if (!isCut) stand.write(new TextEncoder().encode(text));
    }
    for (const bytes of stand.read()) player.hear(bytes);
    for (const message of player.read().flatMap((bytes) => reader.push(bytes)))
      if (message?.word === 'refused') answers.push(`${message.what}: ${message.why}`);
  };
  const tell = (message: Record<string, unknown> & { word: HostMessage['word'] }): void => {
    const numbered = ['point', 'more'].includes(message.word) ? message : { ...message, number: number++ };
    player.write(encodeHost(numbered as never));
    pass();
  };
  for (const { channel } of motors) tell({ word: 'bounds', channel, low: 600, high: 2400, perS: 100_000 });
  for (const { channel } of outputs) tell({ word: 'output', channel, safe: 0 });
  const to = (ms: number, step = 1): void => {
    for (const end = now + ms; now < end;) {
      player.advance(step * 1000);
      stand.advance(step * 1000);
      now += step;
      pass();
    }
  };
  return { ...{ player, stand, lines, answers, tell, to, now: () => now }, cut: () => void (isCut = true) };
}
const wake = (p: ReturnType<typeof pair>, channels = motors.map(({ channel }) => channel)): void =>
  p.tell({ word: 'wake', values: channels.map((channel) => [channel, 1500]) });

/** Templates of many kinds that can be read. */
const templates = fc
  .record({
    head: fc.constantFrom('', 'P ', '>{line} ', 'G1{{}} t{ms} '),
    name: fc.constantFrom('{channel}', '{no}', '{id}', ''),
    between: fc.constantFrom(':', '=', ' at '),
    value: fc.constantFrom(
      '{value}',
      '{value*0.5+3:.2}',
      '{counts:.3}',
      '{joint:.3}',
      '{joint*-1+90:.2}',
      '{rad:.6}',
      '{value:05}',
    ),
    separator: fc.constantFrom(' ', ',', '; '),
    tail: fc.constantFrom('', ' .', ' t{time}'),
    end: fc.constantFrom('lf' as const, 'crlf' as const, 'cr' as const),
    perS: fc.constantFrom(10, 25, 50, 100),
    changedOnly: fc.boolean(),
    reply: fc.constantFrom('', 'ok'),
    on: fc.constantFrom('', 'E {id}', 'ON'),
    off: fc.constantFrom('', 'D{channel}', 'OFF'),
  })
  .map(({ name, between, value, ...rest }) =>
    made({
      ...rest,
      each: name ? `${name}${between}${value}` : value,
      changedOnly: rest.changedOnly && name !== '',
    }),
  );

describe('lines of a builder’s own', () => {
  it('bring motors that read them where the protocol said, whatever the template', () => {
    fc.assert(
      fc.property(
        templates,
        fc.array(
          fc.tuple(fc.constantFrom(...motors.map(({ channel }) => channel)), fc.integer({ min: 700, max: 2300 })),
          {
            minLength: 1,
            maxLength: 5,
          },
        ),
        (template, moves) => {
          const p = pair(template);
          wake(p);
          p.to(50);
          const at = new Map(motors.map(({ channel }) => [channel, 1500]));
          moves.forEach(([channel, value], seq) => {
            p.tell({ word: 'point', seq, ms: 100, values: [[channel, value]] });
            at.set(channel, value);
            p.to(105);
          });
          p.to(1500);
          expect(p.player.failure).toBeNull();
          expect(p.answers).toEqual([]);
          expect(p.stand.unread).toBe(0);
          for (const [channel, value] of at)
            expect(Math.abs(p.stand.motorAt(channel)!.truly - value), `${channel}`).toBeLessThan(1.5);
        },
      ),
      { numRuns: 150 },
    );
  });
  it('say nothing of motors that are off, and nothing at all before any is on', () => {
    fc.assert(
      fc.property(templates, fc.subarray(motors, { minLength: 1 }), (template, on) => {
        const named = template.each.startsWith('{channel}') || /^\{(no|id)\}/.test(template.each);
        const p = pair(template);
        p.to(200);
        expect(p.lines).toEqual([]);
        wake(
          p,
          on.map(({ channel }) => channel),
        );
        p.to(200);
        expect(p.lines.length).toBeGreaterThan(0);
        if (!named) return;
        for (const { channel } of motors.filter((motor) => !on.includes(motor)))
          expect(p.stand.motorAt(channel)!.truly).toBe(1500);
        // Lines of values name those that are on, and no others.
        const values = p.lines.filter(({ text }) => text.startsWith(template.head.replace(/\{.*/, '')));
        for (const { text } of template.each.startsWith('{id}') ? values : [])
          for (const { id } of motors.filter((motor) => !on.includes(motor))) expect(text).not.toContain(id);
      }),
      { numRuns: 60 },
    );
  });
  it('go no faster than they are to, and once where the computer was away', () => {
    fc.assert(
      fc.property(templates, fc.integer({ min: 20, max: 400 }), (template, away) => {
        const p = pair({ ...template, changedOnly: false, reply: '' });
        wake(p);
        p.to(300);
        const before = p.lines.length;
        p.to(1000);
        const period = 1000 / template.perS;
        expect(p.lines.length - before).toBeGreaterThanOrEqual(template.perS - 1);
        const beats = p.lines.slice(before).map(({ atMs }) => atMs);
        beats.slice(1).forEach((at, k) => expect(at - beats[k]).toBeGreaterThanOrEqual(Math.floor(period)));
        const behind = p.lines.length;
        p.to(away, away);
        expect(p.lines.length - behind).toBeLessThanOrEqual(1);
      }),
      { numRuns: 60 },
    );
  });
  it('wait for an answer where the template has one, and say what was not answered', () => {
    const p = pair(made({ reply: 'ok', perS: 100 }));
    wake(p);
    p.to(500);
    expect(p.player.failure).toBeNull();
    p.cut();
    // While nobody listened nobody was silent.
    p.to(20);
    p.to(5000, 5000);
    expect(p.player.failure).toBeNull();
    const before = p.lines.length - 1;
    p.to(900);
    expect(p.lines.length - before).toBe(1);
    expect(p.player.failure).toBeNull();
    p.to(300);
    expect(p.player.failure).toMatch(/^nothing has answered “P 3:1500 7:1500 12:1500” within 1 s$/);
  });
  it('freeze at once, whatever was not answered: where motors are by then is the last that they are told', () => {
    fc.assert(
      fc.property(templates, fc.integer({ min: 1, max: 99 }), (template, ms) => {
        const p = pair({ ...template, halt: 'STOP' });
        wake(p);
        p.to(20);
        p.tell({ word: 'point', seq: 0, ms: 100, values: [[3, 2300]] });
        p.to(ms);
        p.cut();
        const before = p.lines.length;
        p.tell({ word: 'halt' });
        const told = p.lines.slice(before).map(({ text }) => text.trim());
        expect(told).toHaveLength(2);
        expect(told[1]).toBe('STOP');
        p.to(500);
        expect(p.lines.length - before).toBe(2);
      }),
      { numRuns: 60 },
    );
  });
  it('that wait for an answer as the arm is frozen are given up', () => {
    const p = pair(made({ reply: 'ok', on: 'E{channel}' }));
    p.cut();
    wake(p);
    expect(p.lines.map(({ text }) => text.trim())).toEqual(['P 3:1500 7:1500 12:1500', 'E3']);
    p.tell({ word: 'halt' });
    const before = p.lines.length;
    p.player.hear(new TextEncoder().encode('ok\n'));
    p.to(200);
    expect(p.lines.slice(before)).toEqual([]);
  });
  it('switch motors on and off, and outputs, by lines of their own', () => {
    const p = pair(made({ on: 'E{channel}', off: 'D{channel}', output: 'O{id} {level}', changedOnly: true }));
    expect(p.lines.map(({ text }) => text.trim())).toEqual(['Olamp 0']);
    wake(p, [3, 7]);
    p.to(100);
    expect(p.lines.slice(1).map(({ text }) => text.trim())).toEqual([
      'P 3:1500 7:1500',
      'E3',
      'E7',
      'P 3:1500 7:1500',
    ]);
    p.tell({ word: 'point', seq: 0, ms: 20, values: [[20, 1]] });
    p.to(40);
    expect(p.lines.at(-1)!.text).toBe('Olamp 1\n');
    expect(p.stand.levelAt(20)).toBe(1);
    p.tell({ word: 'letgo', channels: [7] });
    expect(p.lines.at(-1)!.text).toBe('D7\n');
    const before = p.lines.length;
    wake(p, [7]);
    p.to(30);
    expect(p.lines.slice(before).map(({ text }) => text.trim())).toEqual(['P 7:1500', 'E7', 'P 7:1500']);
    p.tell({ word: 'letgo', channels: [7] });
    p.tell({ word: 'halt' });
    p.tell({ word: 'sleep' });
    expect(p.lines.slice(-2).map(({ text }) => text)).toEqual(['D3\n', 'Olamp 0\n']);
  });
  it('refuse what a board of the protocol refuses', () => {
    const p = pair(made());
    wake(p);
    p.tell({ word: 'point', seq: 0, ms: 20, values: [[3, 2401]] });
    p.tell({ word: 'zero', values: [[3, 1500]] });
    p.tell({ word: 'input', channel: 25, pull: 'up' });
    expect(p.answers).toEqual(['point: bounds', 'zero: channel', 'input: channel']);
  });
});

describe('a template', () => {
  it('is read, or says in a sentence what is wrong where', () => {
    const wrong: [Partial<LineTemplate>, string, RegExp][] = [
      [{ each: '{channel}:{valu}' }, 'each', /^\{valu\} is no field/],
      [{ each: '{channel}:{ms}' }, 'each', /^\{ms\} has no meaning here; \{channel\}, .*\{rad\} have$/],
      [{ separator: '{no}' }, 'separator', /text alone$/],
      [{ each: '{channel}{value}' }, 'each', /^nothing stands between \{channel\} and \{value\}/],
      [{ each: '{value', changedOnly: false }, 'each', /^the field that letter 1 of “\{value” opens has no end$/],
      [{ tail: 'x}' }, 'tail', /^letter 2 of “x\}” closes a field that none opens$/],
      [{ each: '{channel}' }, 'each', /where the motor is to be$/],
      [{ each: '{value}', changedOnly: true }, 'each', /which motor it is/],
      [{ each: '{value}', separator: '' }, 'separator', /^nothing stands between two motors/],
      [{ each: '{channel}:{value*0}' }, 'each', /is no field/],
      [{ each: '{id:.2}:{value}' }, 'each', /is no field/],
    ];
    for (const [change, at, message] of wrong) {
      const parts = readTemplate(made(change));
      expect(parts.ok, JSON.stringify(change)).toBe(false);
      if (!parts.ok) expect([parts.at, parts.message]).toEqual([at, expect.stringMatching(message)]);
    }
  });
  it('is read as it was written, text and fields in their places, and never throws', () => {
    const letters = fc.string({ unit: fc.constantFrom('{', '}', 'a', ' ', ':', '"'), minLength: 1, maxLength: 6 });
    const number = fc.integer({ min: -900, max: 900 }).filter((n) => n !== 0);
    const field = fc.record({
      ...{ name: fc.constantFrom('value', 'joint'), factor: fc.option(number), offset: fc.option(number) },
      ...{ width: fc.integer({ min: 0, max: 9 }), decimals: fc.option(fc.integer({ min: 0, max: 9 })) },
    });
    fc.assert(
      fc.property(fc.array(fc.tuple(letters, field), { maxLength: 4 }), letters, (pieces, last) => {
        const written = pieces.map(([text, { name, factor, offset, width, decimals }]) => {
          const form = (width ? `0${width}` : '') + (decimals === null ? '' : `.${decimals}`);
          const sum =
            (factor === null ? '' : `*${factor}`) + (offset === null ? '' : (offset > 0 ? '+' : '') + offset);
          return text.replace(/[{}]/g, '$&$&') + `{${name}${sum}${form && `:${form}`}}`;
        });
        const parts = readText(written.join('') + last.replace(/[{}]/g, '$&$&'), ['value', 'joint']);
        expect(parts).toEqual({
          ok: true,
          value: [
            ...pieces.flatMap(([text, { name, factor, offset, width, decimals }]) => [
              text,
              {
                ...{ name, factor: factor ?? 1, offset: offset ?? 0, width },
                decimals: decimals ?? (name === 'joint' ? 2 : 0),
              },
            ]),
            last,
          ],
        });
      }),
    );
    const any = fc.string({ unit: fc.constantFrom('{', '}', 'value', ':', '0', '.', '2', 'x', ' ', '*', '+', '-') });
    fc.assert(
      fc.property(any, (text) => {
        const parts = readText(text, ['value']);
        expect(parts.ok ? parts.value.length : parts.message.length).toBeGreaterThanOrEqual(parts.ok ? 0 : 10);
      }),
    );
  });
  it('is held against the motors that it speaks of', () => {
    const steps = [...motors, { channel: 1, id: 'rail', name: 'Rail', unit: 'steps', hasPlace: true } as const];
    expect(unspoken(read(made({ each: '{no}:{counts}' })), motors)).toBeNull();
    expect(unspoken(read(made({ each: '{no}:{counts}' })), steps)).toMatch(/Rail is sent steps/);
    const spins = [...motors, { channel: 1, id: 'm', name: 'Wheel', unit: 'µs', hasPlace: false } as const];
    expect(unspoken(read(made({ each: '{no}:{joint}' })), spins)).toMatch(/Wheel/);
    expect(unspoken(read(made()), spins)).toBeNull();
  });
});
