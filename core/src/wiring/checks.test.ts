import fc from 'fast-check';
import { channelText } from '../board';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import type { Finding } from '../findings';
import { remedyOf } from '../catalogue';
import { compiled } from '../kinematics/arms.testkit';
import { boardSchema, parseRig, type Board, type Rig } from '../rig';
import { boardKinds, loopBudget, newBoard, stepRates } from './index';
import { checkDrives } from '../bring-up';
import { boardsOn, driveMaps, linedBoards, linePins, pinCount } from '../actuators';

const rigs = { dipper: tileDipper(), loader: kilnLoader() };
const found = (which: keyof typeof rigs, edit: (draft: Rig) => void): Finding[] => {
  const draft = structuredClone(rigs[which]);
  edit(draft);
  const parsed = parseRig(draft);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return checkDrives(parsed.value, compiled(parsed.value.mechanism), parsed.value.builds[0]);
};
const asBoard = (d: Rig, kind: Parameters<typeof newBoard>[0], pins: readonly number[]): void => {
  d.boards[0] = newBoard(kind, d.boards[0].id);
  d.wiring.forEach((wire, k) => (wire.channel = pins[k]));
};

describe('checks of wiring', () => {
  it('find nothing in the demo', () => {
    expect(found('dipper', () => undefined)).toEqual([]);
    expect(found('loader', () => undefined)).toEqual([]);
  });
  it.each<[string, keyof typeof rigs, (draft: Rig) => void]>([
    ['channel-twice', 'dipper', (d) => (d.wiring[1].channel = 0)],
    ['channel-missing', 'dipper', (d) => (d.wiring[1].channel = 21)],
    ['pin-unable', 'dipper', (d) => asBoard(d, 'small-8-bit', [9, 10, 14, 2, 3])],
    ['pin-jitters', 'dipper', (d) => asBoard(d, 'small-8-bit', [9, 10, 2, 3, 4])],
    ['pin-boot', 'dipper', (d) => asBoard(d, '32-bit', [4, 12, 13, 14, 15])],
    ['pin-reserved', 'dipper', (d) => asBoard(d, 'small-8-bit', [9, 10, 2, 3, 1])],
    ['board-without-host', 'dipper', (d) => asBoard(d, 'pwm-driver', [0, 1, 2, 3, 4])],
    ['voltage-high', 'dipper', (d) => (d.rails[0].volts = 12)],
    ['voltage-low', 'dipper', (d) => (d.rails[0].volts = 4)],
    ['rail-missing', 'dipper', (d) => (d.wiring[2].rail = null)],
    ['rail-on-board', 'dipper', (d) => Object.assign(d.rails[0], { source: 'board', board: 'pwm' })],
    ['ground-open', 'dipper', (d) => (d.rails[0].groundJoined = false)],
    ['address-twice', 'loader', (d) => (d.sensors[1].port = 0)],
    ['pulse-rate-over', 'dipper', (d) => Object.assign(d.drives[0], { updateHz: 400 })],
    [
      'pulse-rates-differ',
      'dipper',
      (d) => (asBoard(d, 'large-8-bit', [2, 3, 4, 5, 6]), Object.assign(d.drives[0], { updateHz: 40 })),
    ],
    ['homing-outside', 'loader', (d) => (d.homing.axes[0].at = 170)],
    ['steps-over-ceiling', 'loader', (d) => (d.boards[0].stepsPerS = 50000)],
    ['loop-over', 'loader', (d) => (d.boards[0].loop.everyMs = 3)],
    ['input-floats', 'loader', (d) => (d.signals[0].pull = 'none')],
    ['output-boot-on', 'loader', (d) => (d.signals.at(-1)!.pull = 'down')],
    ['output-boot-unknown', 'loader', (d) => (d.signals.at(-1)!.pull = 'none')],
    ['polarity-unknown', 'loader', (d) => (d.signals.at(-1)!.activeLow = null)],
    ['signal-unwired', 'loader', (d) => (d.signals.at(-1)!.channel = null)],
    ['channel-twice', 'loader', (d) => (d.signals[1].channel = d.signals[0].channel)],
    ['pin-unable', 'loader', (d) => (d.wiring[0].direction = 17)],
  ])('find: %s on the %s', (code, which, edit) => {
    const codes = found(which, edit).map((f) => f.code);
    expect(new Set(codes)).toContain(code);
  });
  it('advise what helps: a resistor on a line that nothing drives, another pin where the pin drives it', () => {
    const adviceOf = (
      boot: 'floats' | 'high' | 'low' | 'pulses',
      pull: 'up' | 'down' | 'none',
    ): string | undefined => {
      const [finding] = found('loader', (d) => {
        const signal = d.signals.at(-1)!;
        signal.pull = pull;
        d.boards.find((b) => b.id === signal.board)!.pins.find((p) => p.pin === signal.channel)!.boot = boot;
      }).filter((f) => f.code.startsWith('output-boot'));
      return finding && remedyOf(finding.code, finding.data);
    };
    // The vacuum is on at a low level.
    expect(adviceOf('floats', 'down')).toBe('Put a resistor that pulls up on the line.');
    expect(adviceOf('floats', 'none')).toBe('Put a resistor that pulls up on the line.');
    expect(adviceOf('low', 'up')).toMatch(/^Choose a pin that is high .* no resistor wins against it\.$/);
    expect(adviceOf('pulses', 'up')).toMatch(/^Choose a pin/);
    expect(adviceOf('floats', 'up')).toBeUndefined();
    expect(adviceOf('high', 'down')).toBeUndefined();
  });
  it('say two bus servos of one address, and leave two lines with the same one alone', () => {
    const bus = (d: Rig, pins: readonly number[]): void => {
      d.boards[0] = newBoard('large-8-bit', d.boards[0].id);
      d.wiring.forEach((wire, k) => (wire.channel = k < 2 ? pins[k] : 2 + k));
      d.drives.forEach((drive, k) => {
        if (k < 2)
          d.drives[k] = {
            kind: 'bus-servo',
            ...{ id: drive.id, name: drive.name, model: '', direction: 1, stallNm: 2, speedDegPerS: 300 },
            ...{ countsPerTurn: 4096, centreCount: 2048, minCount: 0, maxCount: 4095, deadBandCounts: 0 },
            ...{ address: 7, updateHz: 50 },
          };
      });
      d.builds[0].calibrations = [];
    };
    expect(found('dipper', (d) => bus(d, [14, 14])).map((f) => f.code)).toContain('address-twice');
    expect(found('dipper', (d) => bus(d, [14, 15])).map((f) => f.code)).not.toContain('address-twice');
  });
  it('the speed that the shared ceiling allows keeps the sum of all step rates under it', () => {
    const ceiling = 30000;
    const rig = structuredClone(rigs.loader);
    const mechanism = compiled(rig.mechanism);
    const maps = driveMaps(rig, mechanism, rig.builds[0]);
    const total = stepRates(mechanism, rig.boards[0], maps).reduce((sum, r) => sum + r.perS, 0);
    expect(total).toBeGreaterThan(ceiling);
    for (const joint of rig.mechanism.joints) if ('limits' in joint) joint.limits!.maxSpeed! *= ceiling / total;
    rig.boards[0].stepsPerS = ceiling;
    const slow = compiled(rig.mechanism);
    const codes = checkDrives(rig, slow, rig.builds[0]).map((f) => f.code);
    expect(codes).not.toContain('steps-over-ceiling');
    expect(loopBudget(rig, slow, rig.boards[0], maps).stepsMs).toBeCloseTo(
      (ceiling * rig.boards[0].loop.everyMs * rig.boards[0].loop.stepUs) / 1e6,
      6,
    );
  });
});

describe('boards', () => {
  it.each(boardKinds.map((kind) => [kind.id] as const))('the kind %s is a board with pins of their own', (id) => {
    const board = boardSchema.parse(newBoard(id, 'b'));
    expect(new Set(board.pins.map((p) => p.pin)).size).toBe(board.pins.length);
    expect(new Set(board.pins.map((p) => p.label)).size).toBe(board.pins.length);
  });
  it('have each one line: that of the board they hang on in the end, or their own', () => {
    const hosts = fc.array(fc.option(fc.nat(5)), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(hosts, (of) => {
        const kind = (k: number): Board['kind'] => boardKinds[k % boardKinds.length].id;
        const boards = of.map((host, k) => ({
          ...newBoard(kind(k), `b${k}`),
          host: host === null ? null : `b${host}`,
        }));
        const [pins, lines] = [linePins({ boards }), linedBoards({ boards }).map(({ id }) => id)];
        // Every board is on just one of the lines.
        expect(lines.flatMap((line) => boardsOn({ boards }, line).map(({ id }) => id)).sort()).toEqual(
          boards.map(({ id }) => id).sort(),
        );
        for (const line of lines) {
          const on = boardsOn({ boards }, line);
          expect(on[0].id).toBe(line);
          for (const board of on.slice(1)) expect(boards.some(({ id }) => id === board.host)).toBe(true);
          on.forEach((board, k) =>
            board.pins.forEach(({ pin }) => {
              const at = pins(board.id, pin)!;
              expect([at.line, channelText(at.channel)]).toEqual([line, k ? `${k}.${pin}` : `${pin}`]);
            }),
          );
          expect(pinCount({ boards }, line)).toBe(on.flatMap((board) => board.pins).length);
          expect(pins(line, 200)).toBeUndefined();
        }
      }),
    );
  });
});
