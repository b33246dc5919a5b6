import { describe as group, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { nativeAt, type DriveMap } from '../actuators';
import { exportOf } from '../exports';
import { admit } from '../admit';
import { commandMaps } from '../actuators';
import { inUnit } from '../mechanism';
import type { Rig } from '../rig';
import { flowOf, isFlow, planCommands, planRoutine } from '../routine';
import { described } from './boards.testkit';
import { compile, live } from './compiled.testkit';
import { beginMs, track } from './played.testkit';
import { sources, stepsOf, tableOf, watchesOf, type Described, type Steps, type Work } from './index';

/** The dipper with a potentiometer on its turntable, its zero taken at a count, the other way round or not. */
function withSensor(direction: 1 | -1, zero = 512, wraps = false): Rig {
  const rig = structuredClone(tileDipper()) as Rig;
  const sensor = {
    ...{ id: 'pot', name: 'Turn sensor', kind: 'potentiometer', joint: 'turn', side: 'joint', countsPerTurn: 1228 },
    ...{ wraps, board: 'pwm', channel: 18, address: null, port: null, note: '' },
  };
  const [first] = rig.routines;
  // It stands nowhere but at 0° and where it comes on.
  const steps = [
    {
      id: 's0',
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { joints: { turn: 0, elbow: 90 } },
      pace: { speedShare: 1 },
    },
    { id: 's1', kind: 'wait', enabled: true, note: '', durationS: 15 },
  ];
  return {
    ...rig,
    routines: [{ ...first, id: 'stand', steps }, ...rig.routines],
    sensors: [sensor],
    builds: rig.builds.map((build) => ({ ...build, sensors: { pot: { zero, direction, takenOn: '2026-03-01' } } })),
  } as unknown as Rig;
}
function programs(own: Described, rig: Rig): Record<'player' | 'steps', Work> {
  const { mechanism, build } = own;
  const routine = rig.routines.find(({ id }) => id === 'stand')!;
  const plan = planRoutine(rig, mechanism, build, routine);
  const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
  const choice = { startMs: null, starts: [], watches: watchesOf(own), again: false };
  const flow = flowOf(rig, mechanism, routine);
  if (!isFlow(flow)) throw new Error(flow.why);
  return {
    player: { kind: 'player', table: tableOf(own, 'x', motion, [], { frameMs: 20, ...choice }) },
    steps: {
      kind: 'steps',
      steps: stepsOf(own, [{ name: 'x', flow }], { motion: rig.motion, ...choice }) as Steps,
    },
  };
}

group('joints that their sensors correct', () => {
  it.each([
    ['player', 1, 512],
    ['steps', 1, 512],
    ['steps', -1, 512],
    // Its seam lies where the joint comes to stand.
    ['steps', 1, 1225],
    ['steps', 1, 3],
  ] as const)(
    'by the %s, sense %i, zero at %i: come to stand where they are to, however far the motor is off',
    (kind, direction, zero) => {
      const turn = zero === 512 ? 0 : 1228;
      const rig = withSensor(direction, zero, turn > 0);
      const own = described(rig, 'pwm');
      const program = compile(sources(own, kind, programs(own, rig)[kind]));
      const k = own.motors.findIndex(({ map }) => map.transmission.joints.includes('turn' as never));
      const { map, pin, rest } = own.motors[k];
      // Counts for each µs, by its calibration.
      const { mechanism } = own;
      const [slot] = map.slots;
      const pose = mechanism.home.slice();
      const us = (deg: number): number => {
        pose[slot] = (deg * Math.PI) / 180;
        return nativeAt(map as DriveMap, mechanism, pose)!;
      };
      const perUs = (direction * (1228 / 360) * 80) / (us(40) - us(-40));
      const ends = (slipUs: number): { told: number; wished: number } => {
        // The joint stands as if it had been told that much more; reads its zero at 0°.
        const from = Math.round(zero + perUs * slipUs);
        const heard = live(program, [
          `follow 18 ${pin} ${us(0)} ${from} ${Math.round(perUs * 1000)} ${turn}`,
          ...[
            '> g',
            `. ${beginMs(own, [...own.motors.map((motor) => motor.rest)]) * 1000 + 60_000_000}`,
            '. 10000000',
          ],
        ]);
        const told = track(
          heard.flatMap(({ happened }) => happened),
          own,
          k,
        )(Infinity);
        const q = rig.routines.find(({ id }) => id === 'stand')!;
        const plan = planRoutine(rig, mechanism, own.build, q);
        return { told, wished: nativeAt(map as DriveMap, mechanism, plan.blocks.at(-1)!.block.to)! };
      };
      expect(inUnit(mechanism, slot, mechanism.upper[slot])).toBeGreaterThan(40);
      expect(rest).toBeGreaterThan(0);
      // A count is about 3 µs.
      for (const slip of [0, 25, -25]) {
        const { told, wished } = ends(slip);
        expect(Math.abs(told + slip - wished), `slip ${slip}`).toBeLessThanOrEqual(5);
      }
      // What is more than 5° off is not put right: the sensor may be wrong.
      const [{ most }] = watchesOf(own);
      for (const slip of [160, -160]) {
        const { told, wished } = ends(slip);
        expect(Math.abs(wished - told)).toBeLessThanOrEqual(most + 1);
        expect((wished - told) * Math.sign(slip)).toBeGreaterThan(most - 3);
      }
    },
  );
  it('are those that a motor moves alone and whose zero is known; without any Hand-off says so', () => {
    const rig = withSensor(1);
    expect(watchesOf(described(rig, 'pwm')).map(({ sensor }) => sensor.id)).toEqual(['pot']);
    const unknown = { ...rig, builds: rig.builds.map((build) => ({ ...build, sensors: {} })) };
    expect(watchesOf(described(unknown, 'pwm'))).toEqual([]);
    const admitted = admit(unknown);
    if (!admitted.ok) throw new Error(admitted.faults[0].message);
    const { mechanism, build } = admitted;
    const routine = admitted.rig.routines[0];
    const plan = planRoutine(admitted.rig, mechanism, build, routine);
    const motion = planCommands(admitted.rig, mechanism, commandMaps(admitted.rig, mechanism, build), plan);
    const source = { ...admitted, rigId: 'x', q: mechanism.home, planned: { routine, plan, motion } };
    const lacks = exportOf('firmware')!.lacks(source, { kind: 'table-player', correct: true });
    expect(lacks.map(({ code }) => code)).toEqual(['firmware-no-watch']);
  });
  it('of a sensor that begins again after a turn: the same places on either side of its seam', () => {
    const near = (zero: number) => {
      const rig = withSensor(1, zero);
      const [sensor] = rig.sensors;
      return watchesOf(described({ ...rig, sensors: [{ ...sensor, wraps: true, countsPerTurn: 4096 }] }, 'pwm'))[0];
    };
    const [a, b] = [near(2000), near(4090)];
    expect(a.turn).toBe(4096);
    expect(b.places).toEqual(a.places);
    expect(b.middle - a.middle).toBe(2090);
  });
});
