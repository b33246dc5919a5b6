import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { driveSpeed, isSpin, shaftSpeed, type DriveMap } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { Channels } from '@cork-elbow/core/commands';
import { seededRandom } from '@cork-elbow/core/linear';
import type { Rig } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { sampleBuffers } from '@cork-elbow/core/motion';
import { RoutineRun } from './activities/routine';
import { asked, bench, end, extremes, moving, rigs } from './bench.testkit';
import { PERIOD } from './pacer';
import { prepareRun } from './prepare';

const turns = (map: DriveMap, mechanism: Mechanism, q: Float64Array, v: Float64Array): number =>
  Math.abs(shaftSpeed(map, mechanism, q, v)?.degPerS ?? 0);

describe('a run at another pace', () => {
  it('keeps every joint inside its speed and acceleration, and every motor inside its speed, however the pace is changed', () => {
    let [runs, fastest, atMost] = [0, 0, 0];
    fc.assert(
      fc.property(
        fc.nat(rigs.length - 1),
        fc.integer({ min: 1, max: 1e9 }),
        fc.constantFrom('joints', 'motors', 'slow'),
        (k, seed, what) => {
          const random = seededRandom(seed);
          const [name, plain] = rigs[k];
          const rig = moving(plain, random, what === 'motors');
          const stands = standing(rig, rig.builds[0].id);
          if (!stands.ok) return;
          const course = prepareRun(asked(rig), rig, () => stands.mechanism.home);
          if (!course.ok) return;
          runs++;
          const { mechanism } = course;
          const plannedBy = (map: DriveMap): number => {
            const [q, v, a] = sampleBuffers(mechanism.m);
            let most = 0;
            for (let t = 0; t < course.motion.durationS; t += 0.02) {
              course.motion.sampleInto(q, v, a, t);
              most = Math.max(most, turns(map, mechanism, q, v));
            }
            return most;
          };
          // Motors that are hardly faster than the plan asks them to be.
          if (what === 'motors')
            for (const { maps } of [new Channels(rig, mechanism, course.build)])
              for (const map of maps)
                if ('speedDegPerS' in map.drive) Object.assign(map.drive, { speedDegPerS: 1 + 1.1 * plannedBy(map) });
          const channels = new Channels(rig, mechanism, course.build);
          const run = new RoutineRun('x', 'moves', course, channels);
          let now = 0;
          const dt = PERIOD / 1000;
          const poses: Float64Array[] = [run.pointAt(now).pose!];
          for (; run.outcome(now) === null && now < 300_000; now += PERIOD) {
            const least = what === 'slow' ? 0.1 : 1;
            if (random() < 0.02) run.setPace(least + (1.5 - least) * random());
            if (random() < 0.03) run.setPace(1.5);
            run.beat(now);
            fastest = Math.max(fastest, run.status().pace!.now);
            poses.push(run.pointAt(now).pose!.slice());
          }
          // Slowing below what was planned adds to what the motion itself asks for; above it nothing does.
          const most = what === 'slow' ? 2.05 : 1.1;
          for (let s = 0; s < mechanism.m; s++) {
            const [speed, accel] = extremes(poses, s);
            expect(speed, `${name} ${s}`).toBeLessThanOrEqual(mechanism.speed[s] * 1.001 + 1e-9);
            expect(accel, `${name} ${s}`).toBeLessThanOrEqual(most * mechanism.accel[s] + 1e-6);
          }
          for (const map of channels.all) {
            if (isSpin(map)) continue;
            const planned = plannedBy(map);
            let went = 0;
            for (let i = 1; i < poses.length; i += 2) {
              const speeds = poses[i].map((at, s) => (at - poses[i - 1][s]) / dt);
              went = Math.max(went, turns(map, mechanism, poses[i], speeds));
            }
            const own = driveSpeed(map.drive);
            if (planned < own && went > 0.95 * own) atMost++;
            expect(went, `${name} ${map.drive.name}`).toBeLessThanOrEqual(Math.max(own, planned) * 1.02);
          }
        },
      ),
      { numRuns: 24 },
    );
    expect(runs).toBeGreaterThan(8);
    expect(fastest).toBeGreaterThan(1.2);
    // Some motors were held at the most they can.
    expect(atMost).toBeGreaterThan(0);
  });
  const time = (share: number): number => {
    const rig = structuredClone(tileDipper()) as Rig;
    const turn = (id: string, to: number) => ({
      ...{ id, kind: 'joint-move', enabled: true, note: '' },
      ...{ pace: { speedShare: 0.3 }, target: { joints: { turn: to } } },
    });
    rig.routines = [
      { ...rig.routines[0], id: 'slow', steps: [turn('a', 50), turn('b', -50), turn('c', 0)] as never },
    ];
    const b = bench(rig);
    b.loop.start(asked(rig, 'slow'), rig, () => b.now());
    while (b.loop.state.run === 'starting') b.to(20);
    b.loop.setPace(share);
    const began = b.now();
    end(b);
    expect([b.loop.state.run, b.loop.state.notice]).toEqual(['finished', '']);
    return b.now() - began;
  };
  it('takes as long as it says, slower and faster, and its board refuses nothing', () => {
    const planned = time(1);
    expect(time(0.5) / planned).toBeGreaterThan(1.8);
    expect(time(0.5) / planned).toBeLessThan(2.1);
    expect(time(1.5) / planned).toBeLessThan(0.8);
  });
  it('is not faster for it on an arm that has not homed', () => {
    const rig = rigs.find(([id]) => id === 'kiln-shelf-loader')![1];
    const b = bench(rig);
    b.loop.start({ ...asked(rig, 'round'), asDrawn: false }, rig, () => b.now());
    while (b.loop.state.run === 'starting') b.to(100);
    b.loop.setPace(1.5);
    b.to(3000);
    expect(b.loop.state.pace).toEqual({ wished: 1.5, now: 1 });
  });
  it('pauses, goes on and stops as it would at its own', () => {
    const rig = structuredClone(tileDipper()) as Rig;
    const b = bench(rig);
    b.loop.start(asked(rig), rig, () => b.now());
    while (b.loop.state.run === 'starting') b.to(20);
    b.loop.setPace(0.3);
    b.to(500);
    b.loop.pause();
    b.to(3000);
    expect(b.loop.state.run).toBe('paused');
    b.loop.resume(b.now());
    b.to(3000);
    expect(b.loop.state.pace!.now).toBeCloseTo(0.3, 6);
    b.loop.stop(b.now());
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'stopped', pace: null });
  });
});
