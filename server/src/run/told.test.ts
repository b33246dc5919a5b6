import { describe, expect, it } from 'vitest';
import { commandMaps } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { hostReader, type HostMessage } from '@cork-elbow/core/board';
import { Channels, commandTable } from '@cork-elbow/core/commands';
import { plannedMotion, type MotionChoice, type Rig } from '@cork-elbow/core/rig';
import { planCommands, planRoutine, preflight } from '@cork-elbow/core/routine';
import { dotPainter, heronGreeter, tileDipper } from '@cork-elbow/demo';
import { simulatedLink } from '../links/simulated';
import type { LoopEvent } from './events';
import { wholePoints } from '../../../core/src/board/board.testkit';
import { RunLoop } from './loop';

const choices: Record<MotionChoice['school'], MotionChoice> = {
  planned: plannedMotion,
  'low-pass': { ...plannedMotion, school: 'low-pass', timeConstantS: 0.15 },
  jump: { ...plannedMotion, school: 'jump' },
};
const rigs: [string, Rig][] = [
  ['dipper', tileDipper()],
  ['painter', dotPainter()],
  ['greeter', heronGreeter()],
];
const cases = rigs.flatMap(([name, rig]) =>
  Object.entries(choices).map(([school, motion]) => [name, school, { ...rig, motion }] as const),
);

/** What a run of the first routine sends over the line, point by point, from its start on. */
function ran(rig: Rig): { sent: ReturnType<typeof wholePoints>; state: string; notice: string } {
  const sent: HostMessage[] = [];
  const events: LoopEvent[] = [];
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const reader = hostReader();
  let now = 0;
  loop.connect(
    'r',
    rig,
    'b1',
    (end) => {
      // The arm stands where the routine begins: there is no way to its start.
      const inner = simulatedLink({ ...end, rest: end.mechanism.home }, 0);
      return {
        ...inner,
        write(bytes) {
          for (const message of reader.push(bytes)) if (message) sent.push(message);
          inner.write(bytes);
        },
      };
    },
    0,
  );
  const to = (until: () => boolean): void => {
    for (let k = 0; k < 200_000 && !until(); k++) loop.tick((now += 2));
  };
  to(() => now >= 100);
  loop.arm('hold', now);
  to(() => loop.state.armed && loop.state.mode === 'normal');
  const from = sent.length;
  const [{ id: routineId }] = rig.routines;
  loop.start({ id: 'run', rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true }, rig, () => now);
  to(() => ['finished', 'failed', 'stopped', 'none'].includes(loop.state.run));
  const before = wholePoints(sent.slice(0, from)).length;
  return { sent: wholePoints(sent).slice(before), state: loop.state.run, notice: loop.state.notice };
}

describe('what goes over the line', () => {
  it.each(cases)('of the %s, %s, is what its table says, row by row', (_, __, rig) => {
    const stands = standing(rig, 'b1');
    if (!stands.ok) throw new Error('not standing');
    const { mechanism, build } = stands;
    const plan = planRoutine(rig, mechanism, build, rig.routines[0]);
    expect(preflight(rig, mechanism, build, plan).filter((f) => f.severity === 'stop')).toEqual([]);
    const { all } = new Channels(rig, mechanism, build);
    const table = commandTable(
      mechanism,
      all,
      planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan),
      50,
    );
    const { sent, state, notice } = ran({ ...rig, powerUp: { ...rig.powerUp, rest: null } });
    expect([state, notice]).toEqual(['finished', '']);
    // The first point lays the cushion: it stands where the first row is.
    const rows = sent.map(({ values }) => new Map(values));
    expect(rows.length).toBe(table.timeS.length);
    let off = 0;
    rows.forEach((row, i) =>
      all.forEach((map, k) => {
        if (row.get(map.channel!) !== table.natives[k][i]) off++;
      }),
    );
    expect(off).toBe(0);
  });
  it('is another thing by each way of telling', () => {
    const [planned, smoothed, jumping] = Object.values(choices).map((motion) => {
      const rig = { ...tileDipper(), motion };
      return ran({ ...rig, powerUp: { ...rig.powerUp, rest: null } }).sent.map(({ values }) =>
        JSON.stringify(values),
      );
    });
    const differ = (a: string[], b: string[]): number => a.filter((row, k) => row !== b[k]).length;
    for (const [a, b] of [
      [planned, smoothed],
      [planned, jumping],
      [smoothed, jumping],
    ])
      expect(differ(a, b)).toBeGreaterThan(100);
  });
});
