import { describe as group, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { linedBoards } from '../actuators';
import { inUnit } from '../mechanism';
import type { Rig } from '../rig';
import { track } from './played.testkit';
import { compile, live, type Heard } from './compiled.testkit';
import { described, knobOn } from './boards.testkit';
import { handControlOf, sources } from './index';

/** The dipper with two knobs: one leads the turntable, one, the other way round, the elbow past its upper limit. */
function withKnobs(): unknown {
  const rig = structuredClone(tileDipper()) as unknown as Record<string, unknown[]>;
  rig.sensors = [knobOn('pwm', 18, 'a'), knobOn('pwm', 19, 'b')];
  rig.leaders = [
    { id: 'l-a', name: 'Turn */ by hand', sensor: 'a', joint: 'turn', scale: 0.5, offset: -60, low: 0, high: 300 },
    { id: 'l-b', name: 'Bend', sensor: 'b', joint: 'elbow', scale: -0.4, offset: 150, low: 0, high: 300 },
  ];
  return rig;
}
const board = described(withKnobs(), 'pwm');
const control = handControlOf(board);
const program = compile(sources(board, 'hand', { kind: 'hand', control }));
const motorOf = (joint: string): number =>
  board.motors.findIndex(({ map }) => map.transmission.joints.includes(joint as never));
const [turn, elbow] = [motorOf('turn'), motorOf('elbow')];

/** The last pulse of each motor (0: none), and the pulses of one over time. */
function followed(parts: readonly Heard[]): { last: number[]; of: (k: number) => [number, number][] } {
  const pulses = parts.flatMap(({ happened }) => happened.filter(({ what }) => what === 'pulse'));
  const of = (k: number): [number, number][] =>
    pulses.filter(({ at }) => at === board.motors[k].pin).map(({ micros, values: [us] }) => [micros, us]);
  return { last: board.motors.map((_, k) => of(k).at(-1)?.[1] ?? 0), of };
}
/** What a knob's motor is to be told at a count: between the places of its table. */
function placeAt(joint: string, count: number): number {
  const { low, high, places } = control.knobs.find(({ leader }) => leader.joint === joint)!;
  const part = ((Math.min(high, Math.max(low, count)) - low) / (high - low)) * (places.length - 1);
  const k = Math.min(places.length - 2, Math.floor(part));
  return places[k] + (places[k + 1] - places[k]) * (part - k);
}
/** No change is faster than the motor may go, over a tenth of a second at least. */
function keepsSpeed(parts: readonly Heard[]): void {
  const { of } = followed(parts);
  for (const [k] of board.motors.entries()) {
    const rows = of(k).filter(([, us]) => us > 0);
    for (const [a, b] of rows.map((row, n) => [row, rows[n + 1]] as const)) {
      if (!b) continue;
      const most = (control.perS[k] * (b[0] - a[0])) / 1e6 + 2;
      expect(Math.abs(b[1] - a[1]), board.motors[k].map.drive.name).toBeLessThanOrEqual(most);
    }
  }
}
/** From standing to full speed in a quarter of a second, and no quicker from one speed to another: looked at every 20 ms. */
function keepsRamp(parts: readonly Heard[]): void {
  const BEAT = 20_000;
  const { of } = followed(parts);
  for (const [k] of board.motors.entries()) {
    const rows = of(k).filter(([, us]) => us > 0);
    const end = rows.at(-1)?.[0] ?? 0;
    let n = 0;
    const at: number[] = [];
    for (let t = rows[0]?.[0] ?? 0; t <= end; t += BEAT) {
      while (n + 1 < rows.length && rows[n + 1][0] <= t) n++;
      at.push(rows[n][1]);
    }
    // What a beat changes of a beat's way; whole numbers beside.
    const most = (control.perS[k] / 0.25) * (BEAT / 1e6) ** 2 + 2;
    for (let j = 2; j < at.length; j++)
      expect(Math.abs(at[j] - 2 * at[j - 1] + at[j - 2]), board.motors[k].map.drive.name).toBeLessThanOrEqual(most);
  }
}
const wake = ['analog 18 512', 'analog 19 700', '> g', '. 6000000'];

group('hand control, compiled', () => {
  it('comes on one motor after the other where it is expected to stand, then goes to its knobs without a jump', () => {
    const parts = live(program, wake);
    const { last, of } = followed(parts);
    for (const [k, { rest }] of board.motors.entries()) expect(of(k)[0][1]).toBe(rest);
    expect(Math.abs(last[turn] - placeAt('turn', 512))).toBeLessThanOrEqual(2);
    expect(Math.abs(last[elbow] - placeAt('elbow', 700))).toBeLessThanOrEqual(2);
    keepsSpeed(parts);
    // Until it has caught up it goes gently.
    const rows = of(turn);
    const [begin, end] = [rows[0], rows.at(-1)!];
    const seconds = (rows.find(([, us]) => Math.abs(us - end[1]) < 6)![0] - begin[0]) / 1e6;
    expect(Math.abs(end[1] - begin[1]) / seconds).toBeLessThanOrEqual(control.gentlePerS[turn] * 1.05);
  });
  it('follows within its limits, wherever a knob is turned', () => {
    for (const [a, b] of [
      [0, 0],
      [1023, 1023],
      [300, 40],
      [900, 512],
    ]) {
      const parts = live(program, [...wake, `analog 18 ${a}`, `analog 19 ${b}`, '. 6000000']);
      const { last } = followed(parts);
      expect(Math.abs(last[turn] - placeAt('turn', a))).toBeLessThanOrEqual(2);
      expect(Math.abs(last[elbow] - placeAt('elbow', b))).toBeLessThanOrEqual(2);
      keepsSpeed(parts);
      for (const [k, { map }] of board.motors.entries()) {
        if (!('native' in map)) continue;
        expect(last[k]).toBeGreaterThanOrEqual(map.native.low);
        expect(last[k]).toBeLessThanOrEqual(map.native.high);
      }
    }
  });
  it('goes to a kept pose and stays there while knobs tremble; one that is turned leads again without a jump', () => {
    const trembling = [3, -4, 2, -3, 4].flatMap((by) => [`analog 18 ${512 + by}`, '. 60000']);
    const chosen = live(program, [...wake, '> 2', '. 5000000', ...trembling]);
    const { last } = followed(chosen);
    for (const [k, place] of control.presets[1].places.entries())
      expect(Math.abs(last[k] - place)).toBeLessThanOrEqual(1);
    keepsSpeed(chosen);
    const turned = live(program, [...wake, '> 2', '. 5000000', 'analog 18 600', '. 5000000']);
    const now = followed(turned).last;
    expect(Math.abs(now[turn] - placeAt('turn', 600))).toBeLessThanOrEqual(2);
    keepsRamp(turned);
    // The other one has not been touched.
    expect(Math.abs(now[elbow] - control.presets[1].places[elbow])).toBeLessThanOrEqual(1);
    keepsSpeed(turned);
  });
  it('speeds up and slows down gently, when it is held or sent elsewhere on its way too', () => {
    for (const word of ['s', '1', '3'])
      keepsRamp(live(program, [...wake, 'analog 18 1000', 'analog 19 100', '. 500000', `> ${word}`, '. 4000000']));
  });
  it('holds at s whatever is turned, goes on gently at g, and lets go at o', () => {
    const parts = live(program, [...wake, '> s', 'analog 18 100', '. 2000000', '> g', '. 5000000', '> o', '. 1000']);
    const held = followed(parts.slice(0, 8)).of(turn).at(-1)!;
    expect(Math.abs(held[1] - placeAt('turn', 512))).toBeLessThanOrEqual(2);
    expect(Math.abs(followed(parts.slice(0, 10)).last[turn] - placeAt('turn', 100))).toBeLessThanOrEqual(2);
    expect(followed(parts).last).toEqual(board.motors.map(() => 0));
    keepsSpeed(parts);
  });
  it('says which knob leads nothing here', () => {
    const rig = withKnobs() as { leaders: { joint: string }[]; sensors: { channel: number | null }[] };
    rig.sensors[1].channel = null;
    expect(handControlOf(described(rig, 'pwm')).left.map(({ name }) => name)).toEqual(['Bend']);
  });

  const buttons = [20, 21];
  /** Hand control in another way, with two buttons. */
  function madeTo(following: 'change' | 'speed') {
    const rig = withKnobs() as Record<string, unknown[]> & { boards: { pins: unknown[] }[] };
    rig.boards[0].pins.push(...buttons.map((pin) => ({ pin, label: `${pin}`, can: ['input'] })));
    rig.signals = buttons.map((channel, k) => ({
      ...{ id: `button-${k}`, name: `Button ${k}`, note: '', way: 'in', board: 'pwm', channel },
      ...(k === 0 && { activeLow: true, pull: 'up' }),
    }));
    const own = described(rig, 'pwm');
    return compile(sources(own, 'hand', { kind: 'hand', control: handControlOf(own, { following, buttons: true }) }));
  }
  it('goes as far as knobs are turned, from wherever it stands, and no further than their tables', () => {
    const relative = madeTo('change');
    const still = live(relative, wake);
    // Nothing moves by itself, wherever the knobs stand.
    expect(followed(still).last).toEqual(board.motors.map(({ rest }) => rest));
    const turned = live(relative, [...wake, 'analog 18 572', '. 5000000']);
    const by = placeAt('turn', 572) - placeAt('turn', 512);
    expect(Math.abs(followed(turned).last[turn] - board.motors[turn].rest - by)).toBeLessThanOrEqual(2);
    keepsSpeed(turned);
    keepsRamp(turned);
    const far = live(relative, [...wake, 'analog 18 1023', '. 8000000']);
    const { places } = control.knobs.find(({ leader }) => leader.joint === 'turn')!;
    expect(followed(far).last[turn]).toBeLessThanOrEqual(Math.max(...places));
    expect(followed(far).last[turn]).toBeGreaterThanOrEqual(Math.min(...places));
    // Held, turned meanwhile, let go on: it is where it was held.
    const held = live(relative, [...wake, '> s', 'analog 18 900', '. 2000000', '> g', '. 3000000']);
    expect(Math.abs(followed(held).last[turn] - board.motors[turn].rest)).toBeLessThanOrEqual(1);
  });
  it('goes as fast as sticks are pushed, stands in their middle, and stops at the end of the way', () => {
    const sticks = madeTo('speed');
    const { low, high, places } = control.knobs.find(({ leader }) => leader.joint === 'turn')!;
    const middle = Math.round((low + high) / 2);
    const rest = [
      `analog 18 ${middle}`,
      `analog 19 ${Math.round((control.knobs[1].low + control.knobs[1].high) / 2)}`,
      '> g',
      '. 6000000',
    ];
    expect(followed(live(sticks, [...rest, `analog 18 ${middle + 20}`, '. 3000000'])).last[turn]).toBe(
      board.motors[turn].rest,
    );
    const speedAt = (count: number): number => {
      const heard = live(sticks, [...rest, `analog 18 ${count}`, '. 400000', '. 400000']);
      const [before, after] = [heard.slice(0, -1), heard].map((parts) => followed(parts).last[turn]);
      keepsSpeed(heard);
      keepsRamp(heard);
      return (after - before) / 0.4;
    };
    const [half, more] = [middle + (high - middle) * 0.4, middle + (high - middle) * 0.7].map((count) =>
      speedAt(Math.round(count)),
    );
    expect(Math.sign(half)).toBe(Math.sign(places.at(-1)! - places[0]));
    // A third and two thirds of what is left beyond the dead middle.
    expect(more / half).toBeCloseTo(2, 0);
    expect(speedAt(Math.round(middle - (high - middle) * 0.4)) / half).toBeCloseTo(-1, 0);
    const released = live(sticks, [
      ...rest,
      `analog 18 ${high}`,
      '. 300000',
      `analog 18 ${middle}`,
      '. 2000000',
      '. 2000000',
    ]);
    expect(followed(released.slice(0, -1)).last[turn]).toBe(followed(released).last[turn]);
    keepsRamp(released);
    const end = followed(live(sticks, [...rest, `analog 18 ${high}`, '. 20000000'])).last[turn];
    expect(Math.abs(end - places.at(-1)!)).toBeLessThanOrEqual(1);
  });
  it('goes to kept poses at its buttons, each by itself, and not for a twitch of one', () => {
    const program = madeTo('change');
    const [first, second] = [
      (on: boolean) => `pin ${buttons[0]} ${Number(!on)}`,
      (on: boolean) => `pin ${buttons[1]} ${Number(on)}`,
    ];
    const off = [first(false), second(false)];
    const twitch = live(program, [...off, ...wake, second(true), '. 10000', second(false), '. 3000000']);
    expect(followed(twitch).last).toEqual(board.motors.map(({ rest }) => rest));
    for (const [press, preset] of [
      [first(true), 0],
      [second(true), 1],
    ] as const) {
      const { last } = followed(live(program, [...off, ...wake, press, '. 8000000']));
      for (const [k, place] of control.presets[preset].places.entries())
        expect(Math.abs(last[k] - place)).toBeLessThanOrEqual(1);
    }
  });

  it.each(demoRigs().map(({ id }) => id))('of %s: a joint that a motor moves alone follows its knob', (id) => {
    const document = structuredClone(demoRigs().find((rig) => rig.id === id)!.rig) as Rig;
    const [{ id: boardId }] = linedBoards(document);
    const bare = described(document, boardId);
    const k = bare.motors.findIndex(({ map }) => !('stopUs' in map) && map.slots.length === 1);
    const { map, rest } = bare.motors[k];
    const slot = map.slots[0];
    const { mechanism } = bare;
    const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]].map((si) => inUnit(mechanism, slot, si));
    const [channel] = bare.freePins;
    Object.assign(document, {
      sensors: [
        {
          ...{ id: 'knob', name: 'Knob', kind: 'potentiometer', joint: null, side: 'joint', countsPerTurn: 1228 },
          ...{ wraps: false, board: boardId, channel, address: null, port: null, note: '' },
        },
      ],
      leaders: [
        {
          ...{ id: 'l', name: 'Lead', sensor: 'knob', joint: mechanism.slotIds[slot], scale: (high - low) / 300 },
          ...{ offset: low, low: 0, high: 300 },
        },
      ],
    });
    const own = described(document, boardId);
    const following = handControlOf(own);
    const led = compile(sources(own, 'hand', { kind: 'hand', control: following }));
    const [{ places, low: least, high: most }] = following.knobs;
    for (const share of [0.35, 0.6]) {
      const count = Math.round(least + (most - least) * share);
      const heard = live(led, [
        `analog ${channel} ${count}`,
        '> g',
        `. ${own.rig.powerUp.gapMs * own.motors.length * 1000 + 60_000_000}`,
      ]);
      const at = ((count - least) / (most - least)) * (places.length - 1);
      const wanted = places[Math.floor(at)] + (places[Math.floor(at) + 1] - places[Math.floor(at)]) * (at % 1);
      const told = track(
        heard.flatMap(({ happened }) => happened),
        own,
        k,
      );
      expect(told(-1)).toBe(rest);
      expect(Math.abs(told(Infinity) - wanted)).toBeLessThanOrEqual(1);
    }
  });
});
