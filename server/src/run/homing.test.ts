import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { catalogue, driveSpeed, linedBoards } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { jointsToHome, proposeHoming } from '@cork-elbow/core/bring-up';
import { seededRandom } from '@cork-elbow/core/linear';
import { inUnit } from '@cork-elbow/core/mechanism';
import { parseRig, type HomingAxis, type Rig } from '@cork-elbow/core/rig';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { bench, rigs, type Bench } from './bench.testkit';

const askedOf = (routineId: string) => ({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId });
const home = (b: Bench): void => {
  b.loop.home(null, b.now());
  for (let k = 0; k < 3000 && b.loop.state.mode === 'homing'; k++) b.to(100);
};
/** By how much the joints of axes really stand off where they are told to be, in their units. */
function offs(b: Bench, axes: readonly HomingAxis[]): number[] {
  const [told, truly] = [b.pose(), b.world().joints];
  return axes.map(({ joint }) => {
    const slot = b.mechanism.slotOf.get(joint)!;
    return inUnit(b.mechanism, slot, Math.abs(told[slot] - truly[slot]));
  });
}

const steps = catalogue.map(({ figures }) => figures).filter(({ kind }) => kind === 'stepper');
const speed = (figures: (typeof steps)[number]): number => driveSpeed(figures as Rig['drives'][number]);
/** The fastest: whatever it moves, it does not fall out of step. */
const stepper = steps.reduce((best, one) => (speed(one) > speed(best) ? one : best));
/** A rig with steppers instead of its motors, and a switch for each joint, at either end of it. */
function stepped(rig: Rig, random: () => number): Rig | null {
  const draft = structuredClone(rig) as Rig;
  draft.drives = draft.drives.map(
    ({ id, name }) =>
      ({ ...structuredClone(stepper), direction: random() < 0.5 ? 1 : -1, id, name }) as Rig['drives'][number],
  );
  for (const build of draft.builds) Object.assign(build, { calibrations: [], trims: {}, confirmed: {} });
  Object.assign(draft, { signals: [], sensors: [], leaders: [], routines: [] });
  Object.assign(draft.homing, { axes: [], parked: null });
  const known = standing(draft, 'b1');
  if (!known.ok) return null;
  const { mechanism } = known;
  const [board] = linedBoards(draft);
  const own = draft.boards.find(({ id }) => id === board.id)!;
  const wired = (id: string): boolean => {
    const tie = draft.transmissions.find((t) => (t.joints as readonly string[]).includes(id));
    return !!tie?.drives.every((drive) => draft.wiring.some((w) => w.drive === drive && w.board === board.id));
  };
  const joints = jointsToHome(draft, mechanism).filter(wired);
  if (!joints.length) return null;
  const plain = own.pins.at(-1)!;
  joints.forEach((joint, k) => {
    own.pins.push({ ...plain, pin: 150 + k, label: `s${k}` });
    const activeLow = random() < 0.5;
    draft.signals.push({
      ...{ id: `${joint}-at`, name: `Switch of ${joint}`, way: 'in', board: board.id, channel: 150 + k, activeLow },
      ...{ pull: activeLow ? 'up' : 'down', note: '' },
    } as never);
    const slot = mechanism.slotOf.get(joint)!;
    const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => inUnit(mechanism, slot, v));
    const end = random() < 0.5 ? 'min' : 'max';
    const limit = end === 'min' ? low : high;
    const beside = Math.round((random() - 0.5) * 30) / 10;
    draft.homing.axes.push({
      ...proposeHoming(draft, mechanism, joint),
      ...{ by: 'switch', end, signal: `${joint}-at`, spread: 0.02, together: random() < 0.4 },
      ...{ at: Number.isFinite(limit) ? limit + beside : beside, backOff: 2 + 3 * random() },
    });
  });
  const parsed = parseRig(draft);
  return parsed.ok ? parsed.value : null;
}

/** The same with a sensor on each joint in place of its switch, each with a zero and a sense of its own that were measured. */
function sensed(rig: Rig, random: () => number): Rig {
  const draft = structuredClone(rig) as Rig;
  const [board] = linedBoards(draft);
  draft.homing.axes.forEach((axis, k) => {
    const id = `${axis.joint}-angle`;
    const wraps = random() < 0.6;
    const countsPerTurn = [1024, 4096, 20_000][Math.floor(3 * random())];
    const turns = draft.mechanism.joints.find((j) => j.id === axis.joint)!.type !== 'prismatic';
    // One that begins again after a millimetre would say nothing of a slide.
    const counts = turns ? { countsPerTurn, wraps } : { countsPerTurn: 80, wraps: false };
    draft.sensors.push({
      ...{ id, name: `Sensor of ${axis.joint}`, kind: 'encoder', joint: axis.joint, side: 'joint', ...counts },
      ...{ board: board.id, channel: 150, address: 54, port: k, note: '' },
    });
    draft.builds[0].sensors[id] = {
      ...{
        zero: Math.floor(counts.countsPerTurn * random()),
        direction: random() < 0.5 ? 1 : -1,
        takenOn: '2026-01-02',
      },
    };
    Object.assign(axis, { by: 'sensor', signal: null });
  });
  draft.signals = [];
  const parsed = parseRig(draft);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return parsed.value;
}

describe('homing by sensors that know', () => {
  const [, loaderRig] = rigs.find(([id]) => id === 'kiln-shelf-loader')!;
  const loaded = sensed(stepped(loaderRig, seededRandom(5))!, seededRandom(6));
  it('leaves joints of any arm where they are told to be, whatever zero, sense and turn a sensor has; nothing is sought', () => {
    let homed = 0;
    fc.assert(
      fc.property(fc.nat(rigs.length - 1), fc.integer({ min: 1, max: 1e9 }), (k, seed) => {
        const [name, plain] = rigs[k];
        const random = seededRandom(seed);
        const switched = stepped(plain, random);
        if (!switched) return;
        const rig = sensed(switched, random);
        const b = bench(rig, true, { astray: 6, seed: seed % 1000 });
        home(b);
        expect([b.loop.state.notice, b.refusals()], name).toEqual(['', []]);
        expect(b.loop.state, name).toMatchObject({ homed: true, mode: 'normal', armed: true });
        homed++;
        b.to(1000);
        // A count of the coarsest sensor is 0.35°, half of it either way, and what several joints pass on to one that is reckoned from them.
        offs(b, rig.homing.axes).forEach((off, k) =>
          expect(off, `${name} ${rig.homing.axes[k].joint}`).toBeLessThan(0.45),
        );
        expect(b.sent.filter(({ message }) => message.word === 'seek')).toEqual([]);
      }),
      { numRuns: 24 },
    );
    expect(homed).toBeGreaterThan(10);
  });
  it('goes by what a sensor reads, also where that is wrong: by so much the arm stands off', () => {
    const b = bench(loaded, true, { sensorOff: 2 });
    home(b);
    b.to(1000);
    for (const off of offs(b, loaded.homing.axes)) expect(off).toBeCloseTo(2, 0);
  });
  it.each([
    ['scatters', { noise: 300 }, 'scatters by'],
    ['reads what no joint can be at', { sensorOff: 90 }, 'past its limits'],
  ])('ends with a sentence where one %s', (_, imperfect, sentence) => {
    const b = bench(loaded, true, imperfect);
    home(b);
    expect(b.loop.state).toMatchObject({ homed: false, mode: 'normal' });
    expect(b.loop.state.notice).toContain(sentence);
  });
  it('takes the middle of what scatters a little', () => {
    const coarse = changedSensors(loaded, (sensor) => Object.assign(sensor, { countsPerTurn: 20_000, wraps: true }));
    const b = bench(coarse, true, { noise: 20, astray: 5, seed: 4 });
    home(b);
    expect(b.loop.state.notice).toBe('');
    b.to(1000);
    for (const off of offs(b, coarse.homing.axes)) expect(off).toBeLessThan(0.5);
  });
  it('leaves a motor where it is that knows its place by itself, and says what the sensor says', () => {
    const draft = tileDipper();
    const [board] = linedBoards(draft);
    draft.boards.find(({ id }) => id === board.id)!.pins.push({ ...board.pins.at(-1)!, pin: 150, label: '150' });
    draft.sensors = ['elbow', 'wrist'].map((joint, port) => ({
      ...{ id: joint, name: `Angle of ${joint}`, kind: 'encoder', joint, side: 'joint', countsPerTurn: 4096 },
      ...{ wraps: true, board: board.id, channel: 150, address: 54, port, note: '' },
    }));
    const reading = { zero: 100, direction: 1, takenOn: '2026-01-02' } as const;
    draft.builds[0].sensors = { elbow: reading, wrist: reading };
    const known = standing(draft, 'b1');
    if (!known.ok) throw new Error('not admitted');
    const axis = (joint: string, waits: Record<string, number>): HomingAxis => ({
      ...proposeHoming(draft, known.mechanism, joint),
      ...{ by: 'sensor', signal: null, waits },
    });
    // Something else is led elsewhere by points in between.
    draft.homing = { ...draft.homing, axes: [axis('elbow', {}), axis('wrist', { shoulder: 10 })] };
    const parsed = parseRig(draft);
    if (!parsed.ok) throw new Error(parsed.faults[0].message);
    const b = bench(parsed.value, true, { sensorOff: 3 });
    const before = b.pose();
    const shoulder = b.mechanism.slotOf.get('shoulder')!;
    home(b);
    expect(b.loop.state).toMatchObject({ homed: true, notice: '' });
    expect(b.loop.state.found[0].off).toBeCloseTo(-3, 0);
    b.to(1000);
    b.pose().forEach((v, slot) => slot !== shoulder && expect(v).toBeCloseTo(before[slot], 2));
    expect(b.pose()[shoulder]).not.toBeCloseTo(before[shoulder], 1);
  });
  it('ends with a sentence where a sensor says nothing any more, whatever it said before', () => {
    const b = bench(loaded);
    b.to(500);
    // Its line goes on without it.
    const link = b.links()[0] as { read(): Uint8Array[] };
    const read = link.read.bind(link);
    link.read = () => read().filter((bytes) => !String.fromCharCode(...bytes).startsWith('sensed'));
    b.to(1000);
    home(b);
    expect(b.loop.state).toMatchObject({ homed: false, mode: 'normal' });
    expect(b.loop.state.notice).toContain('nothing has come from');
  });
  it('is noisy on demand, and quiet again', () => {
    const b = bench(loaded);
    b.loop.trouble('noise', null, 0);
    b.to(500);
    home(b);
    expect(b.loop.state.notice).toContain('scatters by');
    b.loop.trouble('quiet', null, 0);
    b.to(500);
    home(b);
    expect(b.loop.state).toMatchObject({ homed: true });
  });
  it.each([
    ['has no zero on the build', (draft: Rig) => (draft.builds[0].sensors = {}), 'homing-sensor-zero'],
    ['sits on the motor', (draft: Rig) => draft.sensors.forEach((s) => (s.side = 'motor')), 'homing-sensor'],
    ['is on no pin', (draft: Rig) => draft.sensors.forEach((s) => (s.channel = null)), 'homing-sensor'],
  ])('is not begun where a sensor %s', (_, change, code) => {
    const draft = structuredClone(loaded) as Rig;
    change(draft);
    const b = bench(draft);
    b.loop.home(null, b.now());
    expect(b.refusals()).toEqual([code]);
  });
});
function changedSensors(rig: Rig, change: (sensor: Rig['sensors'][number]) => void): Rig {
  const draft = structuredClone(rig) as Rig;
  draft.sensors.filter(({ countsPerTurn }) => countsPerTurn > 100).forEach(change);
  return draft;
}

describe('homing', () => {
  it('leaves joints of any arm where they are told to be, however far they stood off, and inside their limits', () => {
    let homed = 0;
    fc.assert(
      fc.property(fc.nat(rigs.length - 1), fc.integer({ min: 1, max: 1e9 }), (k, seed) => {
        const [name, plain] = rigs[k];
        const rig = stepped(plain, seededRandom(seed));
        if (!rig) return;
        const b = bench(rig, true, { astray: 6, seed: seed % 1000 });
        expect(b.loop.state.armed, name).toBe(true);
        const before = offs(b, rig.homing.axes);
        home(b);
        expect([b.loop.state.notice, b.refusals()], name).toEqual(['', []]);
        expect(b.loop.state, name).toMatchObject({ homed: true, mode: 'normal', armed: true });
        homed++;
        const after = offs(b, rig.homing.axes);
        // Spread, a step of the motor, and how far it goes while the board looks.
        after.forEach((off, k) => expect(off, `${name} ${rig.homing.axes[k].joint}`).toBeLessThan(0.15));
        // What is said to be found is by how much it stood off, but for what axes before it took away.
        b.loop.state.found.forEach(({ act, off }, k) => {
          expect(act).toBe('found');
          const slot = b.mechanism.slotOf.get(rig.homing.axes[k].joint)!;
          const alone = rig.transmissions.some(
            ({ joints, drives }) =>
              joints.length === 1 && drives.length === 1 && joints[0] === b.mechanism.slotIds[slot],
          );
          if (alone) expect(Math.abs(off!), `${name} ${k}`).toBeCloseTo(before[k], 0);
        });
        const pose = b.pose();
        pose.forEach((v, s) => {
          expect(v).toBeGreaterThan(b.mechanism.lower[s] - 1e-3);
          expect(v).toBeLessThan(b.mechanism.upper[s] + 1e-3);
        });
      }),
      { numRuns: 24 },
    );
    expect(homed).toBeGreaterThan(10);
  });

  const loader = (change: (draft: Rig) => void = () => undefined): Rig => {
    const draft = structuredClone(kilnLoader()) as Rig;
    change(draft);
    const parsed = parseRig(draft);
    if (!parsed.ok) throw new Error(parsed.faults[0].message);
    return parsed.value;
  };
  /** The elbow alone, homed in another way. */
  const elbow = (change: Partial<HomingAxis>): Rig =>
    loader((draft) => {
      const axis = draft.homing.axes.find(({ joint }) => joint === 'elbow')!;
      draft.homing.axes = [{ ...axis, ...change }];
    });
  const seeks = (b: Bench): number =>
    new Set(b.sent.flatMap(({ message: m }) => (m.word === 'seek' ? [m.id] : []))).size;
  const stood = (b: Bench): boolean => {
    const before = b.world().joints;
    b.to(500);
    return b.world().joints.every((v, s) => v === before[s]);
  };

  it('does each seek once over a line that loses and doubles bytes', () => {
    const rig = loader();
    const noisy = { delayMs: 4, jitterMs: 12, lostShare: 0.003, doubledShare: 0.003 };
    const b = bench(rig, false, { astray: 5, seed: 7, ...noisy });
    b.to(3000);
    b.loop.arm('hold', b.now());
    b.to(4000);
    expect(b.loop.state.armed).toBe(true);
    home(b);
    expect(b.loop.state).toMatchObject({ homed: true, notice: '' });
    expect(seeks(b)).toBe(3 * rig.homing.axes.length);
    for (const off of offs(b, rig.homing.axes)) expect(off).toBeLessThan(0.2);
    // Some of them went more than once.
    expect(b.sent.filter(({ message: m }) => m.word === 'seek').length).toBeGreaterThan(seeks(b));
  });
  it('against a hard stop counts from there, and comes away from it', () => {
    const rig = loader((draft) => {
      const axis = draft.homing.axes.find(({ joint }) => joint === 'rail')!;
      draft.homing.axes = [{ ...axis, by: 'end-stop', signal: null, at: -8 }];
    });
    const b = bench(rig, true, { astray: 9, seed: 2 });
    home(b);
    expect(b.loop.state).toMatchObject({ homed: true, notice: '' });
    expect(offs(b, rig.homing.axes)[0]).toBeLessThan(0.2);
    expect(b.loop.state.found).toEqual([{ joint: 'rail', act: 'found', off: expect.any(Number) }]);
    const slot = b.mechanism.slotOf.get('rail')!;
    expect(inUnit(b.mechanism, slot, b.pose()[slot])).toBeGreaterThan(-1e-6);
  });
  it('takes the word of a cradle without moving', () => {
    const rig = elbow({ by: 'cradle', at: 131 });
    const b = bench(rig);
    const before = b.world().joints;
    home(b);
    expect(b.loop.state).toMatchObject({ homed: true, notice: '' });
    expect(b.world().joints).toEqual(before);
    const slot = b.mechanism.slotOf.get('elbow')!;
    expect(inUnit(b.mechanism, slot, b.pose()[slot])).toBeCloseTo(131, 2);
  });
  it('comes off a switch that is pressed before it begins', () => {
    // At rest the elbow stands at 140, past this switch.
    const rig = elbow({ at: 128 });
    const b = bench(rig);
    home(b);
    expect(b.loop.state).toMatchObject({ homed: true, notice: '' });
    expect(seeks(b)).toBe(4);
    expect(offs(b, rig.homing.axes)[0]).toBeLessThan(0.2);
  });
  it('ends with a sentence at a switch that never comes on, and at one that never goes off; the arm stands', () => {
    const dead = bench(elbow({}));
    expect(dead.loop.state.homed).toBe(false);
    dead.loop.force('elbow-switch', false);
    home(dead);
    expect(dead.loop.state).toMatchObject({ homed: false, mode: 'normal', armed: true });
    expect(dead.loop.state.notice).toContain('“Home switch, elbow” did not switch on');
    expect(stood(dead)).toBe(true);
    const stuck = bench(elbow({}));
    stuck.loop.force('elbow-switch', true);
    stuck.to(100);
    home(stuck);
    expect(stuck.loop.state).toMatchObject({ homed: false, mode: 'normal' });
    expect(stuck.loop.state.notice).toContain('stayed on');
    expect(stood(stuck)).toBe(true);
  });
  it('stops what seeks beside an axis that does not find its switch', () => {
    const rig = loader((draft) => {
      const axis = (id: string): HomingAxis => draft.homing.axes.find(({ joint }) => joint === id)!;
      draft.homing.axes = [
        { ...axis('elbow'), fast: 60, together: false, waits: {} },
        { ...axis('rail'), fast: 5, together: true, waits: {} },
      ];
    });
    const b = bench(rig);
    b.loop.force('elbow-switch', false);
    home(b);
    expect(b.loop.state.notice).toContain('did not switch on');
    b.to(100);
    expect(stood(b)).toBe(true);
  });
  it('stands at once when it is stopped, and says nothing of places', () => {
    const b = bench(loader(), true, { astray: 5 });
    b.loop.home(null, b.now());
    b.to(3000);
    expect(b.loop.state.mode).toBe('homing');
    b.loop.stop(b.now());
    b.to(60);
    expect(stood(b)).toBe(true);
    expect(b.loop.state).toMatchObject({ homed: false, mode: 'normal' });
  });
  it('stands when the page that has the controls is gone', () => {
    const b = bench(loader());
    b.loop.home(null, b.now());
    b.to(3000);
    b.loop.setAlone(true);
    b.to(60);
    expect(stood(b)).toBe(true);
    expect(b.loop.state.mode).toBe('normal');
  });
  it('lets runs go at full speed, until the motors have been off', () => {
    const rig = elbow({});
    const b = bench(rig);
    const asked = askedOf('round');
    home(b);
    b.loop.start(asked, rig, () => b.now());
    expect(b.loop.state.notice).toBe('');
    b.loop.halt(b.now());
    b.to(200);
    b.loop.disarm(b.now());
    b.to(200);
    expect(b.loop.state.homed).toBe(false);
    b.loop.clear();
    b.loop.arm('hold', b.now());
    b.to(4000);
    b.loop.start({ ...asked, id: 'y' }, rig, () => b.now());
    expect(b.loop.state.notice).toContain('%');
  });
  const refused: [string, Rig, string][] = [
    ['has nothing that is homed', loader((draft) => (draft.homing.axes = [])), 'homing-none'],
    ['is homed by a sensor without a zero', elbow({ by: 'sensor' }), 'homing-sensor-zero'],
    ['has no switch on a pin', elbow({ signal: null }), 'homing-no-input'],
  ];
  it.each(refused)('is not begun on an arm that %s', (_, rig, code) => {
    const b = bench(rig);
    b.loop.home(null, b.now());
    expect(b.refusals()).toEqual([code]);
    expect(b.loop.state.mode).toBe('normal');
  });
  it('is not begun before motors are on, a second time, while the arm is stopped, nor while a run goes on', () => {
    const b = bench(loader(), false);
    const asked = (): string | undefined => {
      b.loop.home(null, b.now());
      return b.refusals().at(-1);
    };
    expect(asked()).toBe('board-unarmed');
    b.loop.arm('hold', b.now());
    b.to(4000);
    b.loop.home(null, b.now());
    b.to(100);
    expect(b.loop.state.mode).toBe('homing');
    expect(asked()).toBe('homing-busy');
    b.loop.stop(b.now());
    expect(asked()).toBe('stop-latched');
    const running = bench(tileDipper());
    running.loop.start(askedOf(tileDipper().routines[0].id), tileDipper(), () => running.now());
    running.to(200);
    running.loop.home(null, running.now());
    expect(running.refusals()).toEqual(['run-busy']);
  });
});
