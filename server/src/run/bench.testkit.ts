/** A run loop on simulated boards, driven by hand, and every rig that has boards. */
import { hostReader, type HostMessage } from '@cork-elbow/core/board';
import { linedBoards } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { toSlots, type Mechanism } from '@cork-elbow/core/mechanism';
import { presetById, presets, rigFromPreset } from '@cork-elbow/core/presets';
import type { Rig } from '@cork-elbow/core/rig';
import { demoRigs } from '@cork-elbow/demo';
import type { Link } from '../links/link';
import { simulatedLink } from '../links/simulated';
import type { LoopEvent } from './events';
import { confirmedLimits } from './limits';
import { RunLoop } from './loop';

export interface Bench {
  readonly loop: RunLoop;
  readonly mechanism: Mechanism;
  readonly sent: { readonly at: number; readonly message: HostMessage }[];
  readonly events: LoopEvent[];
  to(ms: number): void;
  now(): number;
  /** Where the joints are commanded to be now (slots, SI). */
  pose(): Float64Array;
  refusals(): string[];
  links(): Link[];
}
export function bench(rig: Rig, armed = true): Bench {
  const events: LoopEvent[] = [];
  const sent: { at: number; message: HostMessage }[] = [];
  const reader = hostReader();
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const known = standing(rig, 'b1');
  if (!known.ok) throw new Error('not admitted');
  const mechanism = confirmedLimits(known.mechanism, known.build);
  const links: Link[] = [];
  let now = 0;
  loop.connect(
    'r',
    rig,
    'b1',
    (end) => {
      const inner = simulatedLink(end, 0);
      const link: Link = {
        ...inner,
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
    ...{ loop, mechanism, sent, events, to, links: () => links },
    now: () => now,
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
