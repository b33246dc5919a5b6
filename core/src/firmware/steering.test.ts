import { describe as group, expect, it } from 'vitest';
import { exactNative, isSpin, shaftAt, type DriveMap } from '../actuators';
import { closedBranches, closedFormOf, forward, postureAt } from '../kinematics';
import { leadsTo, planarBranches } from '../kinematics/closed-form/planar-arm';
import { deltaArm } from '../mechanism/delta';
import { allowedPose, families } from '../kinematics/families.testkit';
import { compiled, poseOf } from '../kinematics/arms.testkit';
import { apply, inverse, rotationBetween, seededRandom, vec3, type Vec3 } from '../linear';
import { inUnit, limitExcess, rulesExcess, type Mechanism } from '../mechanism';
import { atLeast, atMost } from '../units/held.testkit';
import {
  MOST,
  ordersOf,
  steeredArm,
  stepped,
  told,
  wake,
  WAKE_MS,
  type Pushed,
  type SteeredArm,
  type Told,
} from './steered.testkit';
import { described, dipperWithSticks } from './boards.testkit';
import { compile } from './compiled.testkit';
import { handControlOf, sources } from './index';
import { brokenAt, pushes, type NoSteering, type Push } from './steering';

/** Arms of every kind that a board steers; others have tests of their own. */
const kinds = [
  'turn and 2 bars',
  'turn, 3 bars, roll',
  'bent links',
  'level bars',
  'belt from the shoulder',
  'tilted base',
  'rail, rule',
  'column on a turntable',
  'cable over three',
  'swinging links on a column',
  'level swinging kind',
  'delta',
  'five-axis kind',
  'wrist in one point',
  'wrist in one point, shoulder beside',
  'wrist in one point, rail',
  'rule at a wrist in one point',
];
/** Steps of motors, and what single numbers lose (mm). */
const OFF_LINE = 0.35;
const OFF_TURN = 4e-3;
/** Of joints (rad, m). */
const PAST = 1.5e-3;
const PUSH_MS = 1200;
const REST_MS = 1400;

const axes: readonly Push[] = ['x', 'y', 'z'];
const unit = (push: Push): Vec3 => [0, 1, 2].map((k) => Number(axes[k] === push)) as unknown as Vec3;

function reaches(map: DriveMap, mechanism: Mechanism, q: Float64Array): boolean {
  const shaft = shaftAt(map, mechanism, q);
  const value = shaft === null ? NaN : exactNative(map.native, shaft);
  return value >= map.native.low && value <= map.native.high;
}
/** Whether the tool could go `by` further (mm, rad) from a pose, on the branch that it is on, by the formulas of a whole computer. */
function goesOn({ board, steering }: SteeredArm, from: Told, push: Push, by: number): boolean {
  const { mechanism } = board;
  const { way, slots } = steering;
  const off = axes.includes(push) ? vec3.scale(unit(push), by / 1000) : ([0, 0, 0] as const);
  const position = vec3.add(vec3.scale(from.tool, 1 / 1000), off);
  const near = (q: Float64Array): boolean =>
    slots.every(
      (s) => Math.abs(q[s] - from.q[s]) < 0.3 && q[s] >= mechanism.lower[s] && q[s] <= mechanism.upper[s],
    ) &&
    rulesExcess(mechanism, q) <= 0 &&
    board.motors.every(({ map }) => isSpin(map) || reaches(map, mechanism, q));
  if (way.kind === 'delta') {
    const centre = apply(
      inverse(way.base),
      vec3.sub(position, vec3.sub(way.origin, [way.base[9], way.base[10], way.base[11]])),
    );
    const arms = [0, 1, 2].map((k) => deltaArm(way.delta, k, centre));
    return arms.every((arm) => arm.ok) && near(Float64Array.from(arms, (arm) => (arm.ok ? arm.angle : NaN)));
  }
  const { arm, carriage } = way;
  const place = carriage ? vec3.sub(position, vec3.scale(carriage.axis, from.q[carriage.slot])) : position;
  if (way.kind === 'wrist') {
    const rotation = forward(mechanism, from.q).tools.get(steering.tool.id)!;
    const form = closedFormOf(mechanism, steering.tool)!;
    const found = closedBranches(mechanism, form, { kind: 'full', position, rotation }, from.q, true);
    return found?.list.some(({ q }) => near(q)) ?? false;
  }
  const { linkage, lead, roll } = arm;
  const hand =
    linkage.slots.length === 3 ? linkage.slots.reduce((sum, s, k) => sum + linkage.bars[2][k] * from.q[s], 0) : 0;
  const leads = leadsTo(arm, place, from.q[lead.slot]);
  if (!Array.isArray(leads)) return false;
  return leads.some((led) => {
    const found = planarBranches(arm, led, hand + (push === 'tilt' ? by : 0), from.q);
    return (
      Array.isArray(found) &&
      found.some(({ values }) => {
        const q = from.q.slice();
        values.forEach((value, k) => {
          const s = slots[k];
          const turns = k === 0 && lead.kind === 'slide' ? 0 : Math.round((q[s] - value) / (2 * Math.PI));
          q[s] = value + turns * 2 * Math.PI;
        });
        if (roll && push === 'roll') q[roll.slot] += by;
        return near(q);
      })
    );
  });
}

/** Steering has rad and mm. */
const perUnit = (mechanism: Mechanism, slot: number): number =>
  mechanism.units[mechanism.jointOfSlot[slot]] === 'mm' ? 1 : Math.PI / 180;

/** The rules that hold at every moment. */
function keepsLimits({ board }: SteeredArm, way: readonly Told[]): void {
  const { mechanism } = board;
  const { lower, upper }: Mechanism = mechanism;
  for (const { q } of way) {
    q.forEach((value, s) => {
      atLeast(value, lower[s] - PAST);
      atMost(value, upper[s] + PAST);
    });
    atMost(rulesExcess(mechanism, q), PAST);
  }
}
function keepsSpeeds({ board }: SteeredArm, way: readonly Told[]): void {
  const { mechanism } = board;
  const SPAN = 5;
  for (let k = SPAN; k < way.length; k++) {
    const [from, to] = [way[k - SPAN], way[k]];
    const seconds = (to.ms - from.ms) / 1000;
    to.q.forEach((value, s) =>
      atMost(Math.abs(value - from.q[s]) / seconds, mechanism.speed[s] * 1.02 + PAST / seconds),
    );
  }
}

/** A joint gets no faster than from standing to full speed in a quarter of a second. */
function keepsRamp({ board, steering }: SteeredArm, way: readonly Told[]): void {
  const { speed } = board.mechanism;
  const BEAT_S = 0.02;
  const NOISE = 2.5e-3;
  for (let k = 2; k < way.length; k++)
    for (const s of steering.slots) {
      const [before, now] = [way[k - 1].q[s] - way[k - 2].q[s], way[k].q[s] - way[k - 1].q[s]];
      // Twice: what is looked at falls between two beats.
      atMost(Math.abs(now) - Math.abs(before), (2 * speed[s] * BEAT_S ** 2) / 0.25 + NOISE);
    }
}

/** Sticks are pushed one after the other, all the way, either way, and let go. `goes`: it stands only where it has to. */
function goesStraight(arm: SteeredArm, goes = true): void {
  expect(arm.steering.goers.length).toBe(arm.steering.slots.length);
  const each = arm.steering.pushes.flatMap((push) => ([1, -1] as const).map((by) => ({ push, by })));
  const list = each.flatMap(({ push, by }): Pushed[] => [
    [{ [push]: by }, PUSH_MS],
    [{}, REST_MS],
  ]);
  const way = told(arm, [...wake, ...ordersOf(list)], 20, WAKE_MS + each.length * (PUSH_MS + REST_MS));
  const at = (ms: number): Told => way[ms / 20];
  // Nothing moves before a stick is pushed.
  expect(at(WAKE_MS).q).toEqual(at(1000).q);
  each.forEach(({ push, by }, n) => {
    const from = at(WAKE_MS + n * (PUSH_MS + REST_MS));
    const pushed = at(from.ms + PUSH_MS);
    const end = at(from.ms + PUSH_MS + REST_MS);
    const part = way.slice(from.ms / 20, end.ms / 20 + 1);
    const along = (p: Vec3): number => vec3.dot(vec3.sub(p, from.tool), unit(push));
    for (const { tool } of part) {
      const aside = vec3.sub(vec3.sub(tool, from.tool), vec3.scale(unit(push), along(tool)));
      atMost(vec3.norm(aside), OFF_LINE, () => `${push} ${by}`);
      atMost(-by * along(tool), OFF_LINE, () => `${push} ${by}`);
    }
    if (arm.steering.way.kind === 'wrist')
      for (const { rotation } of part) {
        const by = vec3.norm(rotationBetween(from.rotation, rotation));
        // Tilted about its own Y, or rolled about its own Z, by as much as it was pushed; else it keeps its rotation.
        atMost(by, axes.includes(push) ? OFF_TURN : (MOST.radPerS * PUSH_MS) / 1000);
      }
    for (let k = 5; k < part.length; k++)
      atMost(vec3.distance(part[k].tool, part[k - 5].tool) / 0.1, MOST.mmPerS * 1.02 + OFF_LINE / 0.1);
    // Let go, it has come to a stand.
    expect(end.q).toEqual(at(end.ms - 100).q);
    if (!axes.includes(push) || !goes) return;
    const stood = Math.abs(along(pushed.tool) - along(at(pushed.ms - 200).tool)) < 0.02;
    if (stood)
      expect(
        [1, 3].every((mm) => goesOn(arm, pushed, push, by * mm)),
        `${push} ${by} at ${pushed.ms} ms`,
      ).toBe(false);
    else expect(by * along(end.tool)).toBeGreaterThan(0.1);
  });
  keepsLimits(arm, way);
  keepsSpeeds(arm, way);
  keepsRamp(arm, way);
}

group('a pose from which sticks would lead', () => {
  it.each([...kinds, 'conditions between joints'])('%s: all holds there just where it does for the arm', (kind) => {
    const random = seededRandom(31);
    const doc = families[kind](random);
    const mechanism = compiled(doc);
    const q = allowedPose(mechanism, random)!;
    const board = described(stepped(mechanism, doc, [q]), 'b');
    const steering = handControlOf(board, { following: 'tool' }).steering!;
    const seen = { holds: 0, not: 0 };
    for (let k = 0; k < 300; k++) {
      const at = q.slice();
      for (const slot of steering.slots) at[slot] += (random() - 0.5) * (k % 3);
      const joints = steering.slots.map((slot) => inUnit(mechanism, slot, at[slot]) * perUnit(mechanism, slot));
      const broken = brokenAt(board, steering, { ...steering.rest, joints });
      const past = Math.max(limitExcess(mechanism, at).by, rulesExcess(mechanism, at));
      const isFar = board.motors.some(({ map }) => !isSpin(map) && !reaches(map, mechanism, at));
      if (past > PAST) expect(broken, `${[...at].join()} is past by ${past}`).not.toBeNull();
      else if (past <= 0 && !isFar) expect(broken).toBeNull();
      seen[broken === null ? 'holds' : 'not']++;
    }
    expect(Math.min(seen.holds, seen.not)).toBeGreaterThan(3);
  });
  it('where a rule is broken leads nothing, and says which', () => {
    const doc = families['rail, rule'](seededRandom(3));
    const mechanism = compiled(doc);
    const random = seededRandom(5);
    const [inside, outside] = [true, false].map((holds) => {
      for (;;) {
        const q = Float64Array.from(mechanism.lower, (low, s) => low + random() * (mechanism.upper[s] - low));
        if (holds ? rulesExcess(mechanism, q) === 0 : rulesExcess(mechanism, q) > 0.05) return q;
      }
    });
    const moves = (q: Float64Array): boolean => {
      const arm = steeredArm(stepped(mechanism, doc, [q]))!;
      const says = brokenAt(arm.board, arm.steering, arm.steering.rest);
      if (q === outside) expect(mechanism.rules.map(({ words }) => words)).toContain(says);
      else expect(says).toBeNull();
      const pushed = axes.flatMap((push): Pushed[] => [
        [{ [push]: 1 }, 600],
        [{ [push]: -1 }, 600],
      ]);
      const way = told(arm, [...wake, ...ordersOf(pushed)], 20, WAKE_MS + 3600);
      return way.some((at) => at.q.some((value, s) => Math.abs(value - way[0].q[s]) > 1e-4));
    };
    expect(moves(inside)).toBe(true);
    expect(moves(outside)).toBe(false);
  });
});

group('steering, compiled', () => {
  it.each(kinds)('%s: the tool goes straight, inside of all limits, and stands only where it has to', (kind) => {
    const random = seededRandom(kinds.indexOf(kind) + 1);
    const doc = families[kind](random);
    const mechanism = compiled(doc);
    const poses = Array.from({ length: 3 }, () => allowedPose(mechanism, random)).filter((q) => q !== null);
    goesStraight(steeredArm(stepped(mechanism, doc, poses))!);
  });
  it('so it does while limits hold only on one side of another joint’s place, and where they just do not', () => {
    const doc = families['conditions between joints'](seededRandom(2));
    const mechanism = compiled(doc);
    for (const deg of [
      [0, 24, 8, 10],
      [-34, 36, 20, 10],
      [-26, 17, -5, 20],
    ]) {
      const q = Float64Array.from(deg, (v) => (v * Math.PI) / 180);
      expect(rulesExcess(mechanism, q)).toBeLessThanOrEqual(0);
      goesStraight(steeredArm(stepped(mechanism, doc, [q]))!);
    }
  });
  it.each(['shoulder beside the turn', 'tool beside the plane'])('%s: so it does reaching over', (kind) => {
    const random = seededRandom(8);
    const doc = families[kind](random);
    const mechanism = compiled(doc);
    for (;;) {
      const q = allowedPose(mechanism, random)!;
      if (!postureAt(mechanism, mechanism.tools[0], q).includes('over')) continue;
      return goesStraight(steeredArm(stepped(mechanism, doc, [q]))!);
    }
  });
  it.each([1, -1])('from a straight arm it bends the way that its limits leave (%s)', (sense) => {
    const doc = families['turn and 2 bars'](seededRandom(4)) as {
      joints: { limits?: { min: number; max: number } }[];
    };
    const [, shoulder, elbow] = doc.joints;
    Object.assign(shoulder.limits!, { min: -80, max: 80 });
    Object.assign(elbow.limits!, sense > 0 ? { min: 0, max: 130 } : { min: -130, max: 0 });
    const mechanism = compiled(doc as never);
    const q = Float64Array.of(0.3, 0.7, 0);
    const arm = steeredArm(stepped(mechanism, doc as never, [q]))!;
    const way = told(arm, [...wake, ...ordersOf([[{ z: -1 }, 1500]])], 20, WAKE_MS + 1500);
    expect(way[WAKE_MS / 20].tool[2] - way.at(-1)!.tool[2]).toBeGreaterThan(5);
    keepsLimits(arm, way);
    keepsSpeeds(arm, way);
  });
  it('no motor is told to be faster than it is', () => {
    const rig = document() as { drives: { maxStepHz: number }[] };
    // 20 °/s of its shaft, 2.9 of its joint.
    const HZ = 180;
    rig.drives[0].maxStepHz = HZ;
    const slow = steeredArm(rig)!;
    const way = told(slow, [...wake, ...ordersOf([[{ y: 1 }, 2500]])], 20, WAKE_MS + 2500);
    const { map } = slow.board.motors[0];
    const perRad = isSpin(map) ? NaN : Math.abs(((map.native.perDeg * 7) / Math.PI) * 180);
    for (let k = 5; k < way.length; k++)
      atMost((Math.abs(way[k].q[0] - way[k - 5].q[0]) * perRad) / 0.1, HZ * 1.05 + 20);
    expect(Math.abs(way.at(-1)!.q[0] - way[0].q[0]) * perRad).toBeGreaterThan(HZ / 2);
  });
  it('no joint is sent further than its motors go', () => {
    const rig = dipperWithSticks();
    const wrist = rig.drives.find(({ id }) => id === 'm-wrist') as { minUs: number; maxUs: number };
    Object.assign(wrist, { minUs: 1000, maxUs: 1600 });
    for (const build of rig.builds)
      build.calibrations = build.calibrations.filter(({ drive }) => drive !== 'm-wrist');
    const board = described(rig, 'pwm');
    const control = handControlOf(board, { following: 'tool', steer: { sticks: { tilt: 'tilt' }, ...MOST } });
    const { goers, limits } = control.steering!;
    for (const goer of goers) {
      const [low, high] = limits[goer.factors.indexOf(1)];
      expect(low).toBeGreaterThanOrEqual(goer.low);
      expect(high).toBeLessThanOrEqual(goer.high);
      for (const place of goer.places) {
        const { low: least, high: most } = board.motors[goer.motor];
        expect(place).toBeGreaterThanOrEqual(least - 0.5);
        expect(place).toBeLessThanOrEqual(most + 0.5);
      }
    }
    const [, upper] = limits[3];
    expect(upper).toBeLessThan(board.mechanism.upper[3] - 0.1);
  });
  it.each([-0.7, 0, 0.7])('six joints with a wrist bent by %s: so does the tool, its rotation kept', (bent) => {
    const doc = families['wrist in one point'](seededRandom(11));
    const mechanism = compiled(doc);
    // Straight, it has the last axis along the first one.
    const q = Float64Array.of(0.3, 0.4, 0.9, bent === 0 ? 0 : 0.5, bent, -0.4);
    // From there joints would have to go far for the least way: it may stand.
    goesStraight(steeredArm(stepped(mechanism, doc, [q]))!, bent !== 0);
  });
  it('so do motors that share joints, and such that move one by rods', () => {
    const random = seededRandom(3);
    const doc = families['turn and 3 bars'](random);
    const mechanism = compiled(doc);
    const [, second, third, fourth] = mechanism.slotIds;
    for (const pose of [0.45, 0.6]) {
      const q = poseOf(mechanism, [pose, 1 - pose, 0.7], 0.2);
      q[3] = 0.2;
      const rig = stepped(mechanism, doc, [q]) as { transmissions: { joints: string[]; drives: string[] }[] };
      const own = (joint: string) => ({ joints: [joint], drives: [`m-${joint}`] });
      const shared = { joints: [second, third], drives: [`m-${second}`, `m-${third}`] };
      const rods = { crankMm: 30, couplerMm: 90, rockerMm: 40, groundMm: 90, crankZeroDeg: 90, rockerZeroDeg: 90 };
      rig.transmissions = [
        ...rig.transmissions.filter(({ joints: [id] }) => ![second, third, fourth].includes(id)),
        {
          id: 'mixed',
          kind: 'matrix',
          ...shared,
          matrix: [
            [7, 0],
            [-5, 7],
          ],
        },
        { id: 'rods', kind: 'four-bar', ...own(fourth), ...rods, branch: 1, marginDeg: 15 },
      ] as never;
      const arm = steeredArm(rig)!;
      expect(arm.steering.goers.map(({ factors }) => factors.filter((f) => f !== 0).length).sort()).toEqual([
        1, 1, 1, 2,
      ]);
      expect(arm.steering.goers[0].places.length).toBeGreaterThan(2);
      goesStraight(arm);
    }
  });

  const random = seededRandom(77);
  const doc = families['turn, 3 bars, roll'](random);
  const mechanism = compiled(doc);
  const poses = Array.from({ length: 3 }, () =>
    poseOf(mechanism, [random(), random(), random(), random(), random()], 0.25),
  );
  const document = (): Record<string, unknown> => stepped(mechanism, doc, poses) as Record<string, unknown>;
  const arm = steeredArm(document())!;
  const last = (list: readonly string[], untilMs: number): Told[] => told(arm, list, 20, untilMs);

  it('takes up at a kept pose without a jump, and goes straight from there', () => {
    const AT = 9000;
    const way = last([...wake, '> 3', '. 7500000', ...ordersOf([[{ y: 0.7 }, 1000]])], AT + 1000);
    const from = way[AT / 20];
    expect(from.ms).toBe(AT);
    poses[2].forEach((value, s) => expect(from.q[s]).toBeCloseTo(value, 2));
    for (const { tool } of way.slice(AT / 20)) {
      atMost(Math.abs(tool[0] - from.tool[0]), OFF_LINE);
      atMost(Math.abs(tool[2] - from.tool[2]), OFF_LINE);
    }
    expect(Math.abs(way.at(-1)!.tool[1] - from.tool[1])).toBeGreaterThan(5);
    keepsSpeeds(arm, way);
  });
  it('stands while it is held, whatever is pushed, and goes on from where it was told to be', () => {
    const held: Pushed[] = [
      [{ x: -1 }, 2000],
      [{}, 1000],
    ];
    const pushed = [...wake, ...ordersOf([[{ x: 1, z: -0.5 }, 500]]), '> s', ...ordersOf(held)];
    const way = last([...pushed, '> g', '. 2000000', ...ordersOf([[{ x: 0.6 }, 800]])], 7800);
    // It slows down within a quarter of a second.
    const stands = way.filter(({ ms }) => ms >= 2300 && ms <= 5000);
    for (const { q } of stands) expect(q).toEqual(stands[0].q);
    const on = way.find(({ ms }) => ms === 7000)!;
    expect(vec3.distance(on.tool, stands[0].tool)).toBeLessThan(MOST.mmPerS * 0.1);
    for (const { tool } of way.filter(({ ms }) => ms > 7000))
      atMost(Math.hypot(tool[1] - on.tool[1], tool[2] - on.tool[2]), OFF_LINE);
    expect(way.at(-1)!.tool[0]).toBeGreaterThan(on.tool[0] + 3);
    keepsSpeeds(arm, way);
    keepsLimits(arm, way);
  });
  it('held on its way to a kept pose it stands, and goes on to that pose', () => {
    const way = last([...wake, '> 3', '. 600000', '> s', '. 1500000', '> g', '. 9000000'], 12_600);
    const stood = way.find(({ ms }) => ms === 3500)!;
    expect(stood.q).toEqual(way.find(({ ms }) => ms === 3000)!.q);
    poses[2].forEach((value, s) => expect(way.at(-1)!.q[s]).toBeCloseTo(value, 2));
    expect(vec3.distance(stood.tool, way.at(-1)!.tool)).toBeGreaterThan(5);
  });
  it('from where a limit is passed it does not steer, and does from a kept pose that it is sent to', () => {
    const rig = document() as { mechanism: object };
    const [, shoulder, elbow] = mechanism.slotIds;
    const sum = (q: Float64Array): number => ((q[1] + q[2]) * 180) / Math.PI;
    // Between where it rests and the third pose.
    const between = (sum(poses[0]) + sum(poses[2])) / 2;
    const terms = [shoulder, elbow].map((joint) => ({ joint, factor: 1 }));
    const side = sum(poses[0]) > between ? { min: -400, max: between } : { min: between, max: 400 };
    rig.mechanism = { ...rig.mechanism, limitRules: [{ terms, ...side }] };
    const stranded = steeredArm(rig)!;
    const steps: Pushed[] = [
      [{ y: 0.8 }, 800],
      [{}, 800],
    ];
    const way = told(
      stranded,
      [...wake, ...ordersOf(steps), '> 3', '. 9000000', ...ordersOf([[{ y: 0.8 }, 1500]])],
      20,
      13_600,
    );
    const moved = (from: number, to: number): number => {
      const [a, b] = [from, to].map((ms) => way[ms / 20].q);
      return Math.max(...stranded.steering.slots.map((s) => Math.abs(a[s] - b[s])));
    };
    expect(moved(WAKE_MS, WAKE_MS + 1600)).toBe(0);
    expect(moved(12_000, 13_600)).toBeGreaterThan(0.01);
  });
  it('a stick leads nothing until it has been let go', () => {
    const early = last(
      [
        ...ordersOf([[{ x: -1.024 }, 1]]),
        '> g',
        '. 3000000',
        ...ordersOf([
          [{}, 300],
          [{ x: -1.024 }, 1500],
        ]),
      ],
      4700,
    );
    for (const { q } of early) expect(q).toEqual(early[0].q);
    const later = last(
      [
        ...ordersOf([[{ x: -1.024 }, 1]]),
        '> g',
        '. 3000000',
        ...ordersOf([
          [{}, 1400],
          [{ x: -1.024 }, 600],
        ]),
      ],
      4900,
    );
    expect(vec3.distance(later.at(-1)!.tool, later[0].tool)).toBeGreaterThan(3);
  });
  it('goes as far the other way by a stick that is reversed, and finely at first', () => {
    const sticks = Object.fromEntries(pushes.map((push) => [push, `-${push}`]));
    const board = described(document(), 'b');
    const control = handControlOf(board, { following: 'tool', steer: { sticks, ...MOST } });
    const other = {
      board,
      steering: control.steering!,
      program: compile(sources(board, 'hand', { kind: 'hand', control })),
    };
    const by = (each: SteeredArm, off: number): Vec3 => {
      const way = told(
        each,
        [
          ...wake,
          ...ordersOf([
            [{ x: off }, 600],
            [{}, 400],
          ]),
        ],
        20,
        WAKE_MS + 1000,
      );
      return vec3.sub(way.at(-1)!.tool, way[WAKE_MS / 20].tool);
    };
    const plain = by(arm, 0.7);
    expect(vec3.norm(plain)).toBeGreaterThan(4);
    const mirrored = by(other, -0.7);
    for (const k of [0, 1, 2]) expect(mirrored[k]).toBeCloseTo(plain[k], 1);
    const fine = by(arm, 0.35);
    // (0.35/0.95 − 0.08)² to (0.7/0.95 − 0.08)²
    expect(fine[0] / plain[0]).toBeGreaterThan(0.12);
    expect(fine[0] / plain[0]).toBeLessThan(0.35);
    expect(vec3.norm(by(arm, 0.05))).toBe(0);
  });
  it('slows down before its end, and stops at no more than its ramp', () => {
    const way = last([...wake, ...ordersOf([[{ z: -1 }, 6000]])], WAKE_MS + 6000).filter(({ ms }) => ms >= WAKE_MS);
    const beat = way.map(({ tool }) => tool[2]);
    const ramp = (MOST.mmPerS / 0.25) * 0.02 ** 2;
    for (let k = 2; k < beat.length; k++) atMost(Math.abs(beat[k] - 2 * beat[k - 1] + beat[k - 2]), ramp + OFF_LINE);
    expect(beat.at(-1)).toBe(beat.at(-10));
    expect(beat[0] - beat.at(-1)!).toBeGreaterThan(5);
  });
  it('refuses what it cannot hold to, by name', () => {
    const why = (change: (rig: Record<string, unknown>) => void): NoSteering | null => {
      const rig = document();
      change(rig);
      return handControlOf(described(rig, 'b'), { following: 'tool' }).noSteering;
    };
    expect(why(() => undefined)).toBeNull();
    const [first] = mechanism.slotIds;
    const slot = mechanism.slotOf.get(first)!;
    expect(why((rig) => (rig.wiring = (rig.wiring as { drive: string }[]).slice(1)))).toEqual({ why: 'joint', slot });
    const chains = families['any chain of 6'](seededRandom(5));
    const strange = compiled(chains);
    const other = handControlOf(described(stepped(strange, chains, [strange.home]), 'b'), { following: 'tool' });
    expect(other.noSteering).toEqual({ why: 'form' });
    expect(other.steering).toBeNull();
  });
});
