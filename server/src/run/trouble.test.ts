import { describe, expect, it } from 'vitest';
import { Channels } from '@cork-elbow/core/commands';
import { isSpin } from '@cork-elbow/core/actuators';
import { Loading } from '@cork-elbow/core/loads';
import type { Rig } from '@cork-elbow/core/rig';
import { demoRigs, tileDipper } from '@cork-elbow/demo';
import { bench, driven, end, lit, turnTo, type Bench } from './bench.testkit';

const run = (b: Bench, rig: Rig, routineId = 'lit'): void =>
  b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true }, rig, b.now);
const rig = lit([turnTo('a', 20), turnTo('b', -20), turnTo('c', 10)]);
const motors = (b: Bench) => new Channels(rig, b.mechanism, rig.builds[0]).all;

describe('a board that begins anew', () => {
  it('in the middle of a run ends it with a sentence; armed again all goes on as before', () => {
    const b = bench(rig);
    run(b, rig);
    b.to(1500);
    b.loop.trouble('reset', null, 0);
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'failed', armed: false, link: 'connected', mode: 'normal' });
    expect(b.loop.state.notice).toContain('began anew');
    run(b, rig);
    expect(b.refusals()).toEqual(['board-unarmed']);
    b.loop.arm('hold', b.now());
    b.to(6000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal', notice: '' });
    run(b, rig);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', notice: '' });
  });
  it.each(driven)(
    '%s: while it is armed, while it is switched on, while it is limp: told, and armed again without a refusal',
    (_, document) => {
      const b = bench(document);
      b.loop.trouble('reset', null, 0);
      b.to(100);
      expect(b.loop.state).toMatchObject({ armed: false, link: 'connected' });
      for (const when of ['limp', 'rising'] as const) {
        if (when === 'rising') {
          b.loop.arm('hold', b.now());
          b.to(60);
        }
        b.loop.trouble('reset', null, 0);
        b.to(200);
        expect(b.loop.state).toMatchObject({ armed: false, link: 'connected', mode: 'normal' });
        expect(b.loop.state.notice).toContain('began anew');
      }
      b.loop.arm('hold', b.now());
      for (let k = 0; k < 200 && !(b.loop.state.armed && b.loop.state.mode === 'normal'); k++) b.to(100);
      expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal' });
      expect(b.loop.state.notice).not.toContain('refused');
      expect(b.refusals()).toEqual([]);
    },
  );
});

it('a board that somebody greets by a line of their own has not begun anew', () => {
  const b = bench(rig, false);
  b.loop.line(rig.boards[0].id, 'hello #', b.now());
  b.to(1500);
  expect(b.loop.state.notice).toBe('');
  b.loop.trouble('reset', null, 0);
  b.to(100);
  expect(b.loop.state.notice).toContain('began anew');
});

describe('what goes wrong with a simulated board', () => {
  it('a line that is cut ends the run and is said', () => {
    const b = bench(rig);
    run(b, rig);
    b.to(1500);
    b.loop.trouble('cut', null, 0);
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'failed', armed: false, link: 'lost' });
    expect(b.loop.state.notice).toContain('was cut');
  });
  it('a motor that is held fast stands while the others go, and the widest gap says so', () => {
    const b = bench(rig);
    const [first] = motors(b);
    b.loop.trouble('jam', first.drive.id, 0);
    run(b, rig);
    end(b);
    const ended = b.events.findLast((e) => e.type === 'ended');
    expect(ended?.type === 'ended' && ended.worst.turn).toBeGreaterThan(15);
    b.loop.trouble('free', first.drive.id, 0);
    run(b, rig);
    end(b);
    const again = b.events.findLast((e) => e.type === 'ended');
    expect(again?.type === 'ended' && again.worst.turn).toBeLessThan(20);
  });
  it('a horn that slips stands so far off what is read back', () => {
    const b = bench(rig);
    const [first] = motors(b);
    const { joints } = b.world();
    b.loop.trouble('slip', first.drive.id, 15);
    b.to(100);
    if (isSpin(first)) throw new Error('a spin');
    const by = ((b.world().joints[first.slots[0]] - joints[first.slots[0]]) * 180) / Math.PI;
    expect(Math.abs(Math.abs(by) - 15)).toBeLessThan(0.5);
    expect(Math.abs(b.pose()[first.slots[0]] - joints[first.slots[0]])).toBeLessThan(0.01);
  });
  it('is nothing on what is real, or not there', () => {
    const b = bench(rig);
    b.loop.trouble('jam', 'nobody', 0);
    expect(b.refusals()).toEqual(['trouble-real']);
    for (const link of b.links()) delete (link as { trouble?: unknown }).trouble;
    b.loop.trouble('reset', null, 0);
    expect(b.refusals()).toEqual(['trouble-real', 'trouble-real']);
  });
});

describe('effects of motors, set where a board is chosen', () => {
  it('a load lets every joint stand off where it was told to be; without it they stand there', () => {
    const off = (load: number): number => {
      const b = bench(rig, true, { load });
      b.to(2000);
      const told = b.events.findLast((e) => e.type === 'telemetry');
      if (told?.type !== 'telemetry') throw new Error('nothing told');
      const { commanded, measured } = told.telemetry;
      return Math.max(...Object.keys(measured).map((id) => Math.abs(measured[id] - commanded[id])));
    };
    expect(off(0)).toBeLessThan(2);
    expect(off(0.6)).toBeGreaterThan(5);
  });
  it.each(driven)('%s: its own weight lets the arm sag, never rise; more of it more', (_, document) => {
    /** How much lower (m·kg) all that weighs is than where it is told to be. */
    const sags = (weight: number, heldG = 0): number => {
      const b = bench(document, true, { weight, heldG });
      b.to(3000);
      const { dynamics } = new Loading(document, b.mechanism);
      const torques = new Float64Array(b.mechanism.m);
      const [told, truly] = [b.pose(), b.world().joints].map((q) => {
        dynamics.gravityInto(torques, q);
        return dynamics.borne[2];
      });
      return told - truly;
    };
    const [none, own, twice] = [sags(0), sags(1), sags(2)];
    // Weightless, nothing that is held pulls either.
    expect(sags(0, 5000)).toBe(none);
    expect(own).toBeGreaterThanOrEqual(none - 1e-6);
    expect(twice).toBeGreaterThanOrEqual(own - 1e-6);
  });
  it('a servo that is too weak for the weight gives way, and one that is strong enough stands off by its share', () => {
    const stands = (strength: number, heldG = 0): number => {
      const weak = structuredClone(document);
      for (const drive of weak.drives) Object.assign(drive, { stallNm: drive.stallNm * strength, holdNm: undefined });
      const b = bench(weak, true, { weight: 1, heldG });
      b.to(3000);
      const slot = b.mechanism.slotOf.get('shoulder')!;
      return Math.abs(b.world().joints[slot] - b.pose()[slot]);
    };
    const document = structuredClone(tileDipper());
    // It rests leaning forward.
    document.mechanism.joints.forEach((joint) => joint.id === 'shoulder' && 'home' in joint && (joint.home = 70));
    const [strong, usual, weak] = [stands(20), stands(1), stands(0.02)];
    expect(stands(1, 300)).toBeGreaterThan(1.2 * usual);
    expect(strong).toBeLessThan(0.01);
    expect(usual).toBeGreaterThan(strong);
    expect(weak).toBeGreaterThan(0.3);
  });
  it('a stepper that is too weak for the weight loses steps as it moves, and counts them all the same', () => {
    // By what is entered it is strong enough: no routine begins that is known to be too heavy.
    const lost = (weight: number): number => {
      const loader = demoRigs().find(({ id }) => id === 'kiln-shelf-loader')!.rig;
      const b = bench(loader, true, { weight });
      b.loop.start(
        { id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId: 'fold', asDrawn: true },
        loader,
        b.now,
      );
      end(b);
      const [told, truly] = [b.pose(), b.world().joints];
      const slot = b.mechanism.slotOf.get('elbow')!;
      return Math.abs(told[slot] - truly[slot]);
    };
    expect(lost(1)).toBeLessThan(0.01);
    expect(lost(100)).toBeGreaterThan(0.05);
  });
  it('play of the joints is between the motor and where the joint really stands', () => {
    const b = bench(rig, true, { slop: 4 });
    run(b, rig);
    end(b);
    b.to(500);
    const slot = b.mechanism.slotOf.get('turn')!;
    const apart = (Math.abs(b.world().joints[slot] - b.pose()[slot]) * 180) / Math.PI;
    expect(apart).toBeGreaterThan(1);
    expect(apart).toBeLessThan(3.5);
  });
});
