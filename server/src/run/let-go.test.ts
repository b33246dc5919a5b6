import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Channels } from '@cork-elbow/core/commands';
import { isSpin } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { seededRandom } from '@cork-elbow/core/linear';
import type { Rig } from '@cork-elbow/core/rig';
import { LetGo } from './activities/let-go';
import { bench, driven, end, lit, step, turnTo, type Bench, type Step } from './bench.testkit';
import { PERIOD } from './pacer';

const run = (b: Bench, rig: Rig, routineId = 'lit'): void =>
  b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true }, rig, b.now);
const wait = (id: string, durationS: number): Step => step(id, 'wait', { durationS });
/** Orders and points that a channel was told, in their order; of points only where they name it. */
const toldOf = (b: Bench, channel: number): { at: number; word: string; value?: number }[] =>
  b.sent.flatMap(({ at, message }) => {
    if (message.word === 'letgo') return message.channels.includes(channel) ? [{ at, word: 'letgo' }] : [];
    if (message.word !== 'wake' && message.word !== 'point' && message.word !== 'more') return [];
    const found = message.values.find(([own]) => own === channel);
    return found ? [{ at, word: message.word, value: found[1] }] : [];
  });

describe('motors that come on again', () => {
  const rigs = driven.map(([, rig]) => {
    const known = standing(rig, rig.builds[0].id);
    if (!known.ok) throw new Error('not admitted');
    return { rig, channels: new Channels(rig, known.mechanism, known.build) };
  });
  it('go gently from where they stand to where the plan has them, and the run stands until they are there', () => {
    fc.assert(
      fc.property(fc.nat({ max: rigs.length - 1 }), fc.integer({ min: 1, max: 1e9 }), (k, seed) => {
        const { channels } = rigs[k];
        const random = seededRandom(seed);
        const gentle = 5 + 40 * random();
        const planned = channels.values(channels.mechanism.home, new Float64Array(channels.mechanism.m));
        const stood = new Map(
          planned.flatMap(([map, to]) =>
            isSpin(map) ? [] : [[map.drive.id, to + Math.round(200 * random() - 100)]],
          ),
        );
        const letGo = new LetGo(channels, (drive) => stood.get(drive), gentle, 140);
        const joints = channels.mechanism.slotIds.filter(() => random() < 0.6);
        let beats = 0;
        while (!letGo.pass({ joints, on: false })) beats++;
        expect(beats * PERIOD).toBeGreaterThanOrEqual(140);
        const off = letGo.limps();
        expect(letGo.limps()).toEqual([]);
        const named = new Set(joints.map((id) => channels.mechanism.slotIds.indexOf(id)));
        for (const map of channels.all) expect(off.includes(map)).toBe(map.slots.every((slot) => named.has(slot)));
        expect(letGo.isOffPlan).toBe(off.length > 0);
        // Let go already: nothing more goes off.
        while (!letGo.pass({ joints, on: false }));
        expect(letGo.limps()).toEqual([]);

        const done = letGo.pass({ joints, on: true });
        expect(done).toBe(off.length === 0);
        const woken = letGo.wakes(() => planned);
        expect(new Set(woken.map(([map]) => map))).toEqual(new Set(off));
        const last = new Map(woken.map(([map, value]) => [map.drive.id, value]));
        for (const [map, value] of woken) expect(value).toBe(isSpin(map) ? map.stopUs : stood.get(map.drive.id));
        for (let isDone = done; !isDone;) {
          isDone = letGo.pass({ joints, on: true });
          for (const [map, value] of letGo.values(planned)) {
            if (isSpin(map) || !last.has(map.drive.id)) continue;
            const most = (Math.abs(map.native.perDeg) * gentle * PERIOD) / 1000 + 1;
            expect(Math.abs(value - last.get(map.drive.id)!)).toBeLessThanOrEqual(most);
            last.set(map.drive.id, value);
          }
        }
        expect(letGo.values(planned)).toEqual(planned);
        expect(letGo.isOffPlan).toBe(false);
      }),
    );
  });
});

describe('a run that lets joints go', () => {
  const steps = [turnTo('a', 15), step('l', 'let-go', { joints: ['turn'] }), wait('w', 1)];
  const more = [step('h', 'hold', { joints: ['turn'] }), turnTo('b', -10)];
  it('does so where the motor stands, tells it nothing while it is off, and goes on once it holds again', () => {
    const rig = lit([...steps, ...more]);
    const b = bench(rig);
    run(b, rig);
    end(b);
    expect([b.loop.state.run, b.loop.state.notice, b.refusals()]).toEqual(['finished', '', []]);
    expect(b.loop.state.limp).toEqual([]);
    const { channel } =
      b.loop.state.run === 'finished' ? new Channels(rig, b.mechanism, rig.builds[0]).all[0] : { channel: null };
    const told = toldOf(b, channel!);
    const off = told.findIndex(({ word }) => word === 'letgo');
    expect(told[off + 1].word).toBe('wake');
    expect(told[off].at - told[off - 1].at).toBeGreaterThan(100);
    expect(told[off + 1].at - told[off].at).toBeGreaterThan(900);
    expect(told.filter(({ word }) => word === 'letgo')).toHaveLength(1);
    const shown = b.events.flatMap((e) => (e.type === 'status' ? [e.status.limp.join()] : []));
    expect(shown.filter((text, k) => text !== shown[k - 1])).toEqual(['', 'turn', '']);
    expect((b.pose()[b.mechanism.slotOf.get('turn')!] * 180) / Math.PI).toBeCloseTo(-10, 1);
  });
  it('at its end leaves them so, and nothing begins before they hold again; disarmed, all is off', () => {
    const rig = lit(steps);
    const b = bench(rig);
    run(b, rig);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', limp: ['turn'], armed: true });
    run(b, rig);
    b.loop.byHand('r', rig, 'b1', b.now());
    b.loop.home(null, b.now());
    expect(b.refusals()).toEqual(['joint-limp', 'joint-limp', 'joint-limp']);
    b.loop.arm('hold', b.now());
    b.to(3000);
    expect(b.loop.state).toMatchObject({ limp: [], mode: 'normal', armed: true });
    run(b, rig);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', limp: ['turn'] });
    b.loop.disarm(b.now());
    b.to(200);
    expect(b.loop.state).toMatchObject({ armed: false, limp: [] });
  });
  it('lies down with what holds, where nobody holds the rest again', () => {
    const rig = lit(steps);
    const b = bench(rig);
    b.loop.setAway({ run: 'stand', then: 'rest', afterS: 5, silentOffS: null });
    run(b, rig);
    end(b);
    b.loop.setAlone(true);
    b.to(60_000);
    expect(b.loop.state).toMatchObject({ armed: false, limp: [], mode: 'normal' });
    expect(b.loop.state.notice).toContain('lay down');
  });
  it('of every rig, in any order of letting go and holding: no board refuses anything, and none of them is told a place meanwhile', () => {
    fc.assert(
      fc.property(fc.nat({ max: driven.length - 1 }), fc.integer({ min: 1, max: 1e9 }), (k, seed) => {
        const [name, rig] = driven[k];
        const random = seededRandom(seed);
        const groups = rig.transmissions.map(({ joints }) => joints);
        const steps = Array.from({ length: 8 }, (_, n): Step => {
          const joints = groups[Math.floor(random() * groups.length)];
          const dice = random();
          if (dice < 0.4) return step(`s${n}`, 'let-go', { joints });
          return dice < 0.8 ? step(`s${n}`, 'hold', { joints }) : wait(`s${n}`, 0.2);
        });
        const routine = { ...lit([]).routines[0], id: 'lit', name: 'Lit', steps: [...steps, wait('last', 0.1)] };
        const all = { ...rig, routines: [routine], homing: { ...rig.homing, axes: [] } } as Rig;
        const b = bench(all);
        run(b, all);
        if (b.refusals().length) return;
        end(b);
        expect([name, b.loop.state.run, b.loop.state.notice]).toEqual([name, 'finished', '']);
        const { all: maps } = new Channels(all, b.mechanism, all.builds[0]);
        const lines = new Set(maps.map(({ line }) => line));
        if (lines.size > 1) return;
        const limp = new Set(b.loop.state.limp);
        for (const map of maps) {
          const words = toldOf(b, map.channel!).map(({ word }) => word);
          words.forEach((word, at) => word === 'letgo' && expect(words[at + 1] ?? 'wake').toBe('wake'));
          const isLimp = words.lastIndexOf('letgo') > words.lastIndexOf('wake');
          for (const slot of map.slots) expect(limp.has(b.mechanism.slotIds[slot])).toBe(isLimp);
        }
      }),
      { numRuns: 20 },
    );
  });
});
