/** A run loop on simulated boards, driven by hand, and every rig that has boards. */
import { hostReader, type HostMessage } from '@cork-elbow/core/board';
import { linedBoards } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { confirmedLimits, toSlots, type Mechanism } from '@cork-elbow/core/mechanism';
import { presetById, presets, rigFromPreset } from '@cork-elbow/core/presets';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { demoRigs, tileDipper } from '@cork-elbow/demo';
import { openLink } from '../links';
import type { Link } from '../links/link';
import type { Imperfect } from '../links/simulated';
import type { World } from '../links/world';
import type { LoopEvent } from './events';
import { RunLoop } from './loop';
import { PERIOD } from './pacer';

export interface Bench {
  readonly loop: RunLoop;
  readonly mechanism: Mechanism;
  readonly sent: { readonly at: number; readonly message: HostMessage }[];
  readonly events: LoopEvent[];
  to(ms: number): void;
  now(): number;
  /** So long (ms) nobody looks: the computer is busy. */
  skip(ms: number): void;
  /** Where the joints are commanded to be now (slots, SI). */
  pose(): Float64Array;
  refusals(): string[];
  links(): Link[];
  /** What is around the boards. */
  world(): World;
}
/** `imperfect`: what is not ideal about its boards; `listen`: hears what passes over the lines themselves. */
export function bench(rig: Rig, armed = true, imperfect: Imperfect = {}, listen?: (link: Link) => Link): Bench {
  const events: LoopEvent[] = [];
  const sent: { at: number; message: HostMessage }[] = [];
  const reader = hostReader();
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const known = standing(rig, 'b1');
  if (!known.ok) throw new Error('not admitted');
  const mechanism = confirmedLimits(known.mechanism, known.build);
  const links: Link[] = [];
  const worlds = new Set<World>();
  let now = 0;
  loop.connect(
    'r',
    rig,
    'b1',
    (end) => {
      const inner = openLink(end, { kind: 'simulated', ...imperfect }, 0, listen);
      worlds.add(end.world);
      const link: Link = {
        ...inner,
        get failure() {
          return inner.failure;
        },
        write(bytes) {
          for (const message of reader.push(bytes)) if (message) sent.push({ at: now, message });
          inner.write(bytes);
        },
      };
      links.push(link);
      return link;
    },
    0,
  );
  const to = (ms: number): void => {
    for (const end = now + ms; now < end;) loop.tick((now += 2));
  };
  to(100);
  if (armed) {
    loop.arm('hold', now);
    for (let k = 0; k < 100 && !(loop.state.armed && loop.state.mode === 'normal'); k++) to(100);
  }
  return {
    ...{ loop, mechanism, sent, events, to, links: () => links, world: () => [...worlds][0] },
    now: () => now,
    skip: (ms) => void (now += ms),
    pose() {
      to(60);
      const last = events.findLast((e) => e.type === 'telemetry')!;
      return toSlots(mechanism, (last as Extract<LoopEvent, { type: 'telemetry' }>).telemetry.commanded);
    },
    refusals: () => events.flatMap((e) => (e.type === 'refused' ? [e.code] : [])),
  };
}
export const rigs: [string, Rig][] = [
  ...demoRigs().map(({ id, rig }): [string, Rig] => [id, rig]),
  ...presets.flatMap(({ id }): [string, Rig][] => {
    const made = rigFromPreset(presetById(id)!, id);
    return made.ok ? [[id, made.value]] : [];
  }),
].filter(([, rig]) => linedBoards(rig).length > 0);
/** Those of which a motor on a board moves a joint. */
export const driven = rigs.filter(([, rig]) => {
  const b = bench(rig);
  return b.loop.state.armed;
});

export type Step = Rig['routines'][number]['steps'][number];
export const own = { enabled: true, note: '' };
/** Steps of a test, one after the other. */
export const step = (id: string, kind: string, more: object = {}): Step => ({ ...own, id, kind, ...more }) as Step;
export const turnTo = (id: string, turn: number): Step =>
  ({ ...own, id, kind: 'joint-move', pace: { durationS: 0.9 }, target: { joints: { turn } } }) as Step;
export const output = (id: string, signal: string, on: boolean): Step =>
  ({ ...own, id, kind: 'output', signal, on }) as Step;

/** The dipper with a lamp that is on at a high level and a pump that is on at a low one, and a routine of these steps. */
export function lit(steps: Step[]): Rig {
  const rig = structuredClone(tileDipper()) as Rig;
  const [board] = rig.boards;
  // A few more like its last pin, which is a plain one.
  const plain = board.pins.at(-1)!;
  const free = [60, 61, 62];
  board.pins.push(...free.map((pin) => ({ ...plain, pin, label: `${pin}` })));
  const signal = (id: string, way: 'in' | 'out', k: number, activeLow: boolean): Rig['signals'][number] =>
    ({
      ...{
        id,
        name: id,
        way,
        board: board.id,
        channel: free[k],
        activeLow,
        pull: activeLow ? 'up' : 'down',
        note: '',
      },
    }) as never;
  const parsed = parseRig({
    ...rig,
    homing: { ...rig.homing, axes: [] },
    signals: [signal('lamp', 'out', 0, false), signal('pump', 'out', 1, true), signal('door', 'in', 2, true)],
    routines: [{ ...rig.routines[0], id: 'lit', name: 'Lit', steps }],
  });
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return parsed.value;
}
/** Whether signals are on, by telemetry, each time that one of them changes. */
export function changes(b: Bench): { at: number; id: string; on: boolean }[] {
  const last = new Map<string, boolean>();
  return b.events.flatMap((event) => {
    if (event.type !== 'telemetry') return [];
    const { signals, runS } = event.telemetry;
    return Object.entries(signals).flatMap(([id, on]) => {
      const before = last.get(id);
      last.set(id, on);
      return before === undefined || before === on ? [] : [{ at: runS, id, on }];
    });
  });
}
export const signals = (b: Bench): Record<string, boolean> => {
  b.to(120);
  const last = b.events.findLast((e) => e.type === 'telemetry');
  return last?.type === 'telemetry' ? last.telemetry.signals : {};
};
export const end = (b: Bench): void => {
  for (let k = 0; k < 2000 && !['finished', 'failed', 'stopped'].includes(b.loop.state.run); k++) b.to(50);
};

/** A run of a routine, as one is asked for. */
export const asked = (rig: Rig, routineId = rig.routines[0].id) => ({
  ...{ id: 'x', rigId: 'r', revision: 1, buildId: rig.builds[0].id, routineId, asDrawn: true },
});
/**
 * Rigs with a routine of moves that are slower than their joints may go, of different profiles and kinds. `motors`: what holds them back is
 * their motors, which joints would outrun.
 */
export function moving(rig: Rig, random: () => number, motors: boolean): Rig {
  const profiles = ['s-curve', 'minimum-jerk', 'trapezoid', 'soft-stop'] as const;
  const joints = rig.mechanism.joints.filter((j) => 'limits' in j && 'home' in j);
  const steps = Array.from({ length: 4 }, (_, k) => ({
    ...{
      id: `m${k}`,
      kind: 'joint-move',
      enabled: true,
      note: '',
      pace: { speedShare: motors ? 0.25 + 0.2 * random() : 0.2 + 0.8 * random() },
    },
    target: {
      joints: Object.fromEntries(
        joints.map((j) => {
          const { min, max } = (j as { limits: { min: number; max: number } }).limits;
          return [j.id, min + (max - min) * (0.3 + 0.4 * random())];
        }),
      ),
    },
  }));
  const profile = profiles[Math.floor(random() * profiles.length)];
  const draft = structuredClone(rig) as Rig;
  draft.mechanism.limitRules = [];
  draft.motion.school = 'planned';
  draft.routines = [{ id: 'moves', name: 'Moves', note: '', role: null, profile, steps } as never];
  return draft;
}

/** Most speed and most acceleration (SI) of a slot over poses that are a period apart. */
export function extremes(poses: readonly Float64Array[], slot: number): [speed: number, accel: number] {
  const dt = PERIOD / 1000;
  let [speed, accel] = [0, 0];
  for (let i = 2; i < poses.length; i++) {
    const [a, b, c] = [poses[i - 2][slot], poses[i - 1][slot], poses[i][slot]];
    speed = Math.max(speed, Math.abs(c - b) / dt);
    accel = Math.max(accel, Math.abs(c - 2 * b + a) / dt ** 2);
  }
  return [speed, accel];
}
