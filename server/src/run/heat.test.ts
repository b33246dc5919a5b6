import { describe, expect, it } from 'vitest';
import { catalogue } from '@cork-elbow/core/actuators';
import type { Telemetry } from '@cork-elbow/core/contract';
import type { Rig } from '@cork-elbow/core/rig';
import { asked, bench, end, lit, turnTo, type Bench } from './bench.testkit';

/** The dipper, its motors with all the figures of their size. */
function figured(): Rig {
  const rig = lit([turnTo('a', 15), turnTo('b', -15), turnTo('c', 15)]);
  const { idleA, movingA, stallA, holdNm, stallNm, massG } = catalogue.find(
    ({ figures }) => figures.kind === 'servo',
  )!.figures as Rig['drives'][number];
  for (const drive of rig.drives) Object.assign(drive, { idleA, movingA, stallA, holdNm, stallNm, massG });
  return rig;
}
const heat = (b: Bench): Telemetry['heat'] => {
  b.to(120);
  const last = b.events.findLast((event) => event.type === 'telemetry');
  return last?.type === 'telemetry' ? last.telemetry.heat : {};
};

describe('the warmth of motors', () => {
  it('is told before a motor that is held fast is too warm, and again as it is; it cools once it is off', () => {
    const rig = figured();
    const b = bench(rig);
    const turn = rig.transmissions.find(({ joints }) => joints[0] === 'turn')!.drives[0];
    const { name } = rig.drives.find(({ id }) => id === turn)!;
    b.loop.trouble('jam', turn, 0);
    b.loop.byHand('r', rig, 'b1', b.now());
    b.loop.guide({ joints: { turn: 20 }, share: 0.2 }, b.now());
    b.to(3000);
    const first = heat(b)[turn];
    expect(first.stalledS).toBeGreaterThan(0.5);
    expect(first.leftS).not.toBeNull();
    const due = b.now() + 1000 * first.leftS!;
    const told = (): string[] =>
      b.events.flatMap((e) => (e.type === 'status' && e.status.notice ? [e.status.notice] : []));
    for (let k = 0; k < 2000 && !told().some((each) => each.includes('as warm as it may be in')); k++) b.to(100);
    expect(told().at(-1)).toContain(`“${name}” becomes warm`);
    expect(heat(b)[turn].share).toBeLessThan(0.9);
    for (let k = 0; k < 2000 && heat(b)[turn].share < 1; k++) b.to(100);
    expect(Math.abs(b.now() - due)).toBeLessThan(1500);
    b.to(200);
    expect(told().at(-1)).toContain(`“${name}” is as warm as it may be`);
    // Only the one that is held.
    expect(
      Object.entries(heat(b))
        .filter(([, { stalledS }]) => stalledS > 0)
        .map(([id]) => id),
    ).toEqual([turn]);
    b.loop.disarm(b.now());
    b.to(60_000);
    expect(heat(b)[turn]?.share ?? 0).toBeLessThan(0.6);
    expect(heat(b)[turn]?.stalledS ?? 0).toBe(0);
  });
  it('of motors that are free to move is told by nobody, however long they run', () => {
    const rig = figured();
    // Strong enough for the arm: else nothing would run.
    for (const drive of rig.drives) Object.assign(drive, { stallNm: 30 * drive.stallNm, holdNm: 30 * drive.holdNm! });
    const b = bench(rig);
    for (let k = 0; k < 5; k++) {
      b.loop.start(asked(rig, 'lit'), rig, b.now);
      end(b);
    }
    expect(b.loop.state).toMatchObject({ run: 'finished', notice: '' });
    for (const { share, stalledS } of Object.values(heat(b))) {
      expect(share).toBeLessThan(0.8);
      expect(stalledS).toBe(0);
    }
  });
});
