import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { driveMaps, exactNative, fromNative } from '../actuators';
import { forward } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import { positionOf, vec3 } from '../linear';
import { buildSchema, factSchema, leaderSchema, sensorSchema, type Build, type Fact, type Rig } from '../rig';
import {
  applyFact,
  checkLeaders,
  factsOf,
  followerRange,
  followerSpline,
  knobOf,
  knobShare,
  placeBy,
  restingAt,
  sensorRaw,
  matchLeader,
  proposeLeader,
  sensorAngle,
  subjectOf,
  tipDifference,
  zeroFrom,
} from './index';
import { between } from '../units/between.testkit';

const number = between;

describe('leader and follower', () => {
  const leader = leaderSchema.parse({
    id: 'l',
    name: 'l',
    sensor: 's',
    joint: 'j',
    scale: 1,
    offset: 0,
    low: -60,
    high: 60,
  });
  it('share what both reach, and the proposal shares it all', () => {
    fc.assert(
      fc.property(number(-180, 0), number(1, 180), number(-3, 3), number(-90, 90), (low, span, scale, offset) => {
        const high = low + span;
        const match = matchLeader({ ...leader, scale, offset }, low, high);
        expect(match.share).toBeGreaterThanOrEqual(0);
        expect(match.share).toBeLessThanOrEqual(1 + 1e-12);
        expect(match.share + match.lost).toBeCloseTo(1, 12);
        const proposed = proposeLeader({ ...leader, scale }, low, high, 25);
        const after = matchLeader({ ...leader, ...proposed }, low, high);
        expect(after.share).toBeCloseTo(1, 9);
        expect(after.idle).toBeCloseTo(0, 9);
        expect(Math.sign(proposed.scale)).toBe(scale < 0 ? -1 : 1);
      }),
    );
  });
  it('says what is asked, shared and idle as a walk through the leader’s travel counts it', () => {
    fc.assert(
      fc.property(number(-180, 0), number(1, 180), number(-3, 3), number(-90, 90), (low, span, scale, offset) => {
        fc.pre(Math.abs(scale) > 0.05);
        const high = low + span;
        const own = { ...leader, low: -40, high: 80 };
        const match = matchLeader({ ...own, scale, offset }, low, high);
        const asked = Array.from({ length: 2001 }, (_, k) => offset + scale * (own.low + (120 * k) / 2000));
        expect(match.asked[0]).toBeCloseTo(Math.min(...asked), 9);
        expect(match.asked[1]).toBeCloseTo(Math.max(...asked), 9);
        const inside = asked.filter((v) => v > low && v < high);
        expect(Math.abs(match.idle - (1 - inside.length / asked.length))).toBeLessThan(2e-3);
        // Three decimals of the follower's travel: a walk knows no more.
        const shared = inside.length ? (Math.max(...inside) - Math.min(...inside)) / span : 0;
        expect(Math.abs(match.share - shared)).toBeLessThan((2 * 120 * Math.abs(scale)) / 2000 / span + 1e-9);
        expect(match.follower).toEqual([low, high]);
        if (match.common) expect(match.common[1] - match.common[0]).toBeCloseTo(match.share * span, 9);
      }),
    );
  });
  it('share nothing where a knob has no travel, and nothing is shared with a joint that has none', () => {
    expect(matchLeader({ ...leader, scale: 0, offset: 3 }, -90, 90)).toMatchObject({
      common: null,
      share: 0,
      idle: 1,
    });
    expect(matchLeader(leader, 10, 10)).toMatchObject({ common: null, share: 0, lost: 1 });
  });
  it('takes the proposal’s offset by horns that many teeth on, on either shaft', () => {
    fc.assert(
      fc.property(
        number(-180, 100),
        number(1, 80),
        number(-50, 50),
        fc.integer({ min: 15, max: 30 }),
        fc.constantFrom(1 as const, -1 as const),
        (low, span, middle, teeth, sense) => {
          const own = { ...leader, low: middle - 40, high: middle + 70, splineTeeth: teeth };
          const high = low + span;
          const made = proposeLeader(own, low, high, 21, sense);
          // Both ends meet both ends, in the sense asked for.
          const ends = [own.low, own.high].map((v) => made.offset + made.scale * v);
          expect(ends[sense === 1 ? 0 : 1]).toBeCloseTo(low, 9);
          expect(ends[sense === 1 ? 1 : 0]).toBeCloseTo(high, 9);
          // A horn so many teeth on leaves at most half a tooth of the offset.
          const left = (made.offset / made.scale - (made.leaderTeeth! * 360) / teeth) * (teeth / 360);
          expect(Math.abs(left)).toBeLessThanOrEqual(0.5 + 1e-9);
          expect(Math.abs(made.offset / (360 / 21) - made.followerTeeth!)).toBeLessThanOrEqual(0.5 + 1e-9);
          expect(Object.is(made.leaderTeeth, -0) || Object.is(made.followerTeeth, -0)).toBe(false);
        },
      ),
    );
    const bare = proposeLeader(leader, -10, 80, undefined);
    expect([bare.leaderTeeth, bare.followerTeeth]).toEqual([null, null]);
    expect(proposeLeader({ ...leader, splineTeeth: 25 }, 5, 5, 25)).toMatchObject({ scale: 0, leaderTeeth: 0 });
  });
  it('reads the follower’s range and spline from the rig, and says where too little of it is shared', () => {
    for (const { rig } of demoRigs()) {
      const mechanism = compiled(rig.mechanism);
      mechanism.slotIds.forEach((joint, s) => {
        const led = { ...leader, joint };
        const [low, high] = [mechanism.lower[s], mechanism.upper[s]].map((v) => v / mechanism.siPerUnit[s]);
        const range = followerRange(mechanism, led);
        expect(range).toEqual(Number.isFinite(high - low) ? [low, high] : null);
        const tie = rig.transmissions.find((t) => (t.joints as readonly string[]).includes(joint));
        const drive = rig.drives.find((d) => d.id === tie?.drives[0]);
        expect(followerSpline(rig, led)).toBe(tie?.joints.length === 1 ? drive?.splineTeeth : undefined);
        const found = (share: number) => {
          if (!range) return [];
          const scale = (share * (range[1] - range[0])) / 120;
          const own = { ...led, name: 'Knob', scale, offset: range[0] + scale * 60 };
          return checkLeaders({ ...rig, leaders: [own] }, mechanism);
        };
        expect(found(0.951)).toEqual([]);
        if (!range) return;
        expect(found(0.94)).toMatchObject([
          {
            code: 'leader-range',
            place: { station: 'motors', part: 'leader', joint },
            data: { leader: 'Knob', joint: mechanism.names[mechanism.jointOfSlot[s]], share: expect.closeTo(94, 6) },
          },
        ]);
      });
      const nobody = { ...leader, joint: 'nobody' };
      expect(followerRange(mechanism, nobody)).toBeNull();
      expect(followerSpline(rig, nobody)).toBeUndefined();
      expect(checkLeaders({ ...rig, leaders: [nobody] }, mechanism)).toEqual([]);
    }
  });
  it('share nothing where the ranges do not meet', () => {
    expect(matchLeader({ ...leader, offset: 500 }, -90, 90)).toMatchObject({ common: null, share: 0, idle: 1 });
  });
});

describe('a sensor on a joint', () => {
  const any = fc.record({
    wraps: fc.boolean(),
    slides: fc.boolean(),
    side: fc.constantFrom('joint' as const, 'motor' as const),
    countsPerTurn: fc.integer({ min: 200, max: 100_000 }),
    zero: fc.nat(100_000),
    direction: fc.constantFrom(-1 as const, 1 as const),
  });
  const made = ({ wraps, side, countsPerTurn }: { wraps: boolean; side: 'joint' | 'motor'; countsPerTurn: number }) =>
    sensorSchema.parse({ id: 's', name: 's', kind: 'encoder', countsPerTurn, wraps, side });
  it('reads what its joint comes to, and that means the joint again: a turn, or a millimetre of a slide', () => {
    fc.assert(
      fc.property(any, number(-170, 170), (it, angle) => {
        const sensor = made(it);
        const span = it.slides && it.side === 'joint' ? 1 : 360;
        const at = it.wraps ? (angle * span) / 360 : angle;
        const raw = sensorRaw(it, sensor, at, it.slides);
        if (it.wraps) expect(raw >= 0 && raw < it.countsPerTurn).toBe(true);
        const build = buildSchema.parse({
          id: 'b',
          name: 'b',
          sensors: { s: { zero: it.zero, direction: it.direction, takenOn: '' } },
        });
        const read = sensorAngle(build, sensor, raw, it.slides);
        expect(Math.abs(read - at)).toBeLessThanOrEqual(span / it.countsPerTurn);
        // Zero and sense come out of two readings a known way apart.
        const further = at + (it.wraps ? span / 5 : 40);
        const taken = zeroFrom(
          sensor,
          { raw, angle: at },
          { raw: sensorRaw(it, sensor, further, it.slides), angle: further },
          it.slides,
        )!;
        expect(taken.direction).toBe(it.direction);
        const off = taken.zero - it.zero;
        const turned = it.wraps ? off - it.countsPerTurn * Math.round(off / it.countsPerTurn) : off;
        expect(Math.abs(turned)).toBeLessThanOrEqual(1);
      }),
    );
  });
  it('rests in the middle of what it scatters, also across the place where it begins again', () => {
    fc.assert(
      fc.property(any, fc.array(fc.integer({ min: -20, max: 20 }), { minLength: 1, maxLength: 12 }), (it, offs) => {
        const sensor = made(it);
        const turn = it.countsPerTurn;
        const raws = offs.map((off) => (it.wraps ? (((it.zero + off) % turn) + turn) % turn : it.zero + off));
        const { raw, swing } = restingAt(sensor, raws)!;
        const mean = it.zero + offs.reduce((sum, v) => sum + v, 0) / offs.length;
        const off = raw - mean;
        expect(Math.abs(it.wraps ? off - turn * Math.round(off / turn) : off)).toBeLessThan(1e-6);
        expect(swing).toBe(Math.max(...offs) - Math.min(...offs));
      }),
    );
    expect(restingAt(made({ wraps: true, side: 'joint', countsPerTurn: 4096 }), [])).toBeNull();
  });
  it('is believed at the place inside the limits that is nearest to where its joint was, and nowhere past them', () => {
    fc.assert(
      fc.property(
        fc.boolean(),
        number(-400, 0),
        number(1, 700),
        number(0, 1),
        number(-170, 170),
        (wraps, low, span, share, off) => {
          const sensor = made({ wraps, side: 'joint', countsPerTurn: 4096 });
          const high = low + span;
          const truly = low + share * span;
          const angle = wraps ? truly - 360 * Math.round(truly / 360) : truly;
          const believed = truly + off;
          const place = placeBy(sensor, angle, false, { low, high, believed, leeway: 1 });
          expect(place).not.toBeNull();
          expect(place!).toBeGreaterThanOrEqual(low - 1);
          expect(place!).toBeLessThanOrEqual(high + 1);
          // What is believed within half a turn of it is set right, unless another place inside is nearer.
          const best = [0, -360, 360]
            .map((turn) => truly + (wraps ? turn : 0))
            .filter((v) => v >= low - 1 && v <= high + 1);
          expect(Math.abs(place! - believed)).toBeCloseTo(Math.min(...best.map((v) => Math.abs(v - believed))), 6);
          const past = placeBy({ ...sensor, wraps: false }, high + 1.5, false, { low, high, believed, leeway: 1 });
          expect(past).toBeNull();
        },
      ),
    );
  });
});

describe('sensors', () => {
  const build = buildSchema.parse({ id: 'b', name: 'b' });
  const sensor = sensorSchema.parse({ id: 's', name: 's', kind: 'encoder', countsPerTurn: 4096, wraps: true });
  it('read the angle again that zero and sense were taken from, across the wrap too', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 4095 }),
        number(-170, 170),
        number(2, 60),
        fc.constantFrom(1, -1),
        (raw, angle, way, sense) => {
          fc.pre(Math.abs(angle + way) < 179);
          const counts = Math.round((sense * way * 4096) / 360);
          const after = { raw: (((raw + counts) % 4096) + 4096) % 4096, angle: angle + way };
          const taken = zeroFrom(sensor, { raw, angle }, after)!;
          expect(taken.direction).toBe(sense);
          const measured = { ...build, sensors: { s: { ...taken, takenOn: '' } } };
          expect(sensorAngle(measured, sensor, raw)).toBeCloseTo(angle, 9);
          expect(Math.abs(sensorAngle(measured, sensor, after.raw) - after.angle)).toBeLessThan(360 / 4096);
        },
      ),
    );
    expect(zeroFrom(sensor, { raw: 5, angle: 0 }, { raw: 5, angle: 30 })).toBeNull();
  });
  it('wrap to the angle nearest to 0, half a turn being +180°, and do not where they count on', () => {
    const at = (zero: number, direction: 1 | -1, wraps: boolean, raw: number): number =>
      sensorAngle({ ...build, sensors: { s: { zero, direction, takenOn: '' } } }, { ...sensor, wraps }, raw);
    for (const zero of [0, 1000, 4000])
      for (const direction of [1, -1] as const) {
        expect(at(zero, direction, true, zero + 2048)).toBe(180);
        expect(at(zero, direction, true, zero - 2048)).toBe(180);
        expect(at(zero, direction, true, zero + 4096 * 3 + 512)).toBeCloseTo(direction * 45, 9);
        expect(at(zero, direction, false, zero + 4096 * 3)).toBe(direction * 1080);
      }
    // Nothing taken yet: counts from 0, in the sense they rise.
    expect(sensorAngle(build, sensor, 1024)).toBe(90);
  });
  it('keep a zero inside the turn where they wrap and as it is where they do not', () => {
    const free = { ...sensor, wraps: false };
    fc.assert(
      fc.property(
        fc.integer({ min: -9000, max: 9000 }),
        number(-500, 500),
        fc.integer({ min: 30, max: 2000 }),
        (raw, angle, counts) => {
          const after = { raw: raw + counts, angle: angle + 10 };
          const wrapped = zeroFrom(sensor, { raw, angle }, after)!;
          const plain = zeroFrom(free, { raw, angle }, after)!;
          expect(wrapped.zero).toBeGreaterThanOrEqual(0);
          expect(wrapped.zero).toBeLessThan(4096);
          expect(plain.zero).toBeCloseTo(raw - (angle * 4096) / 360, 6);
          const turns = (plain.zero - wrapped.zero) / 4096;
          expect(turns).toBeCloseTo(Math.round(turns), 6);
          // More than half a turn of counts is the other way round, only where it wraps.
          const far = { raw: raw + 3000, angle: angle + 10 };
          expect(zeroFrom(sensor, { raw, angle }, far)!.direction).toBe(-1);
          expect(zeroFrom(free, { raw, angle }, far)!.direction).toBe(1);
        },
      ),
    );
    expect(zeroFrom(sensor, { raw: 5, angle: 12 }, { raw: 500, angle: 12 })).toBeNull();
  });
  it('of a knob want readings of all three places, ends apart by more than they swing, and a middle between them', () => {
    const good = { low: [10], high: [900], centre: [450] };
    expect(knobOf(good)).toEqual({ low: 10, high: 900, centre: 450, noise: 0, deadBand: 1 });
    for (const place of ['low', 'high', 'centre'] as const) expect(knobOf({ ...good, [place]: [] })).toBeNull();
    expect(knobOf({ low: [10, 20], high: [16, 24], centre: [17] })).toBeNull();
    for (const middle of [5, 905, 10, 900]) expect(knobOf({ ...good, centre: [middle] })).toBeNull();
    expect(knobOf({ low: [900], high: [10], centre: [450] })).not.toBeNull();
    expect(knobOf({ low: [10, 17], high: [900, 903], centre: [450, 455] })!.deadBand).toBe(Math.ceil(7 / 2) + 1);
  });
  it('of a knob rise evenly on both sides of the dead band, each by its own end, whichever end is the high one', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 400 }),
        fc.integer({ min: 30, max: 300 }),
        fc.integer({ min: 30, max: 300 }),
        fc.integer({ min: 0, max: 12 }),
        fc.boolean(),
        between(0, 1),
        (low, down, up, noise, turned, share) => {
          const [a, c, b] = [low, low + down, low + down + up];
          const read = (v: number): number[] => [v - noise / 2, v + noise / 2];
          const ends = knobOf({ low: read(turned ? b : a), high: read(turned ? a : b), centre: read(c) })!;
          const sign = turned ? -1 : 1;
          for (const [end, way] of [
            [b, sign],
            [a, -sign],
          ]) {
            expect(knobShare(ends, end)).toBeCloseTo(way, 9);
            expect(knobShare(ends, end + Math.sign(end - c) * 50)).toBe(way);
            const from = c + Math.sign(end - c) * ends.deadBand;
            expect(knobShare(ends, from)).toBe(0);
            expect(knobShare(ends, from + share * (end - from))).toBeCloseTo(way * share, 6);
          }
        },
      ),
    );
  });
  it('a knob goes from −1 over 0 to 1 and rests in its dead band', () => {
    const ends = knobOf({ low: [12, 14], high: [1010, 1009], centre: [498, 503, 500] })!;
    expect(ends.noise).toBe(5);
    expect(knobShare(ends, ends.low)).toBeCloseTo(-1, 9);
    expect(knobShare(ends, ends.high)).toBeCloseTo(1, 9);
    for (const raw of [498, 500, 503]) expect(knobShare(ends, raw)).toBe(0);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1022 }), (raw) => {
        expect(knobShare(ends, raw + 1)).toBeGreaterThanOrEqual(knobShare(ends, raw));
      }),
    );
    expect(knobOf({ low: [500], high: [501], centre: [500, 505] })).toBeNull();
    expect(knobOf({ low: [10], high: [900], centre: [950] })).toBeNull();
  });
});

describe('facts of a build', () => {
  const rig = tileDipper();
  const mechanism = compiled(rig.mechanism);
  const [build] = rig.builds;
  it('are taken out and put in again without a change, and say what they are about', () => {
    for (const { id } of rig.drives) {
      for (const fact of factsOf(build, id)) {
        expect(subjectOf(fact)).toBe(id);
        expect(factSchema.parse(fact)).toEqual(fact);
        const blank = buildSchema.parse({ id: 'x', name: 'x' });
        applyFact(blank, fact);
        expect(factsOf(blank, id)).toEqual([fact]);
      }
    }
  });
  const takenOn = '2026-05-02';
  const facts: Fact[] = [
    {
      kind: 'points',
      calibration: {
        drive: 'm1',
        takenOn,
        points: [
          { at: 0, us: 1500 },
          { at: 40, us: 1890 },
        ],
        note: '',
      } as never,
      trimUs: -12,
    },
    { kind: 'turn', drive: 'm1', turn: { asked: 60, moved: 58, takenOn } as never },
    { kind: 'speeds', drive: 'm1', speeds: { stopUs: 1493, points: [{ us: 1600, degPerS: 40 }], takenOn } as never },
    { kind: 'sensor', sensor: 'm1', reading: { zero: 77, direction: -1, takenOn } },
    { kind: 'backlash', joint: 'm1', backlash: { slack: 0.7, takenOn } as never },
  ];
  it('of every kind go in beside those of others, in place of an older one, and come out alone', () => {
    const made = (): Build => buildSchema.parse({ id: 'x', name: 'x' });
    for (const fact of facts) {
      const build = made();
      // What is there about something else stays.
      const other = JSON.parse(JSON.stringify(fact).replaceAll('"m1"', '"m2"')) as Fact;
      applyFact(build, other);
      applyFact(build, JSON.parse(JSON.stringify(fact).replaceAll(takenOn, '2020-01-01')) as Fact);
      applyFact(build, fact);
      expect(factsOf(build, 'm1')).toEqual([fact]);
      expect(factsOf(build, 'm2')).toEqual([other]);
      expect(factsOf(build, 'm3')).toEqual([]);
      expect([subjectOf(fact), subjectOf(other)]).toEqual(['m1', 'm2']);
      if (fact.kind === 'points') expect(build.calibrations).toHaveLength(2);
    }
    const all = made();
    for (const fact of facts) applyFact(all, fact);
    expect(factsOf(all, 'm1')).toEqual(facts);
  });
  it('of lifts stand one beside the other, each once, the latest two hundred of them', () => {
    const lift = (payloadG: number, drive = 'm1') => ({
      kind: 'lift' as const,
      lift: {
        ...{ drive, joints: { elbow: 20 }, payloadG, needNm: 0.4, hasNm: 1, note: '', takenOn },
        result: 'lifted' as const,
      },
    });
    const build: Build = buildSchema.parse({ id: 'x', name: 'x' });
    for (const fact of [lift(100), lift(200), lift(100), lift(50, 'm2')]) applyFact(build, fact);
    expect(factsOf(build, 'm1')).toEqual([lift(200), lift(100)]);
    expect(factsOf(build, 'm2')).toEqual([lift(50, 'm2')]);
    expect(subjectOf(lift(1))).toBe('m1');
    for (let g = 1000; g < 1300; g++) applyFact(build, lift(g));
    expect(build.lifts).toHaveLength(200);
    expect(build.lifts!.at(-1)!.payloadG).toBe(1299);
    expect(buildSchema.safeParse(build).success).toBe(true);
  });
  it('put into a build are its own: changing the build leaves them as they were', () => {
    const before = JSON.stringify(facts);
    const build = buildSchema.parse({ id: 'x', name: 'x' });
    for (const fact of facts) applyFact(build, fact);
    const spoil = (value: unknown): void => {
      if (value && typeof value === 'object')
        for (const [key, v] of Object.entries(value)) {
          if (typeof v === 'number') (value as Record<string, number>)[key] = v + 1;
          else spoil(v);
        }
    };
    spoil(build);
    expect(JSON.stringify(facts)).toBe(before);
  });
  it('that differ move the tip as far as the joints differ that the same command then means, here and at worst', () => {
    for (const rig of [tileDipper(), kilnLoader()] as Rig[]) {
      const mechanism = compiled(rig.mechanism);
      const [build] = rig.builds;
      const tool = mechanism.tools.find((t) => t.mounted)!;
      const tip = (q: Float64Array) => positionOf(forward(mechanism, q).tools.get(tool.id)!);
      const maps = driveMaps(rig, mechanism, build);
      for (const map of maps.filter((m) => m.slots.length === 1 && m.transmission.drives.length === 1)) {
        const other = structuredClone(build);
        other.turns[map.drive.id] = { ...other.turns[map.drive.id], asked: 50, moved: 60 } as never;
        const [there] = driveMaps(rig, mechanism, other).filter((m) => m.drive.id === map.drive.id);
        const q = mechanism.home.slice();
        const before = q.slice();
        const apart = tipDifference(rig, mechanism, build, other, q)!;
        expect(q).toEqual(before);
        // By hand: the joint where the other state's motor stands for this state's number.
        const own = q[map.slots[0]] / mechanism.siPerUnit[map.slots[0]];
        const shaft = map.coupling.toDrives([own])![map.index];
        const meant = there.coupling.toJoints([fromNative(there.native, exactNative(map.native, shaft))])![0];
        const moved = q.slice();
        moved[map.slots[0]] = meant * mechanism.siPerUnit[map.slots[0]];
        expect(apart.here).toBeCloseTo(vec3.distance(tip(q), tip(moved)), 9);
        expect(apart.worst).toBeGreaterThanOrEqual(apart.here);
        if (map.drive.kind === 'stepper') expect(apart.worst).toBeGreaterThan(0.001);
      }
      const bare = { ...mechanism, tools: [] };
      expect(tipDifference(rig, bare, build, build, mechanism.home)).toBeNull();
    }
  });
  it('no difference at the tip between a build and itself; one where a gear turns short, as large as by hand', () => {
    const same = tipDifference(rig, mechanism, build, build, mechanism.home)!;
    expect(same.worst).toBeLessThan(1e-9);
    const other = structuredClone(build);
    const k = other.calibrations.findIndex((c) => c.drive === 'm-turn');
    // Every angle of the turntable 1° further: the tip goes round by its distance from the axis.
    other.calibrations[k].points = other.calibrations[k].points.map((p) => ({ ...p, at: p.at + 1 }));
    const apart = tipDifference(rig, mechanism, build, other, mechanism.home)!;
    const tip = forward(mechanism, mechanism.home).tools.get('tongs')!;
    expect(apart.here).toBeCloseTo(2 * Math.hypot(tip[9], tip[10]) * Math.sin(Math.PI / 360), 9);
    expect(apart.worst).toBeGreaterThanOrEqual(apart.here);
  });
  it('a measured turn scales what is sent: 58° for 60° asks for 60/58 as many steps', () => {
    const loader = kilnLoader();
    const m = compiled(loader.mechanism);
    const plain = driveMaps(loader, m, loader.builds[0]).find((d) => d.drive.id === 'm-turn')!;
    const short = { ...loader.builds[0], turns: { 'm-turn': { asked: 60, moved: 58, takenOn: '' } } };
    const scaled = driveMaps(loader, m, short).find((d) => d.drive.id === 'm-turn')!;
    expect(scaled.native.perDeg / plain.native.perDeg).toBeCloseTo(60 / 58, 12);
    expect(fromNative(scaled.native, exactNative(scaled.native, 12.5))).toBeCloseTo(12.5, 9);
  });
});
