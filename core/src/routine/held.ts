/** What tools hold along a plan, which of them are on, and which joints are let go: as loads have to know it. */
import { heldBy, type Held, type HeldFrom } from '../loads';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import type { Plan } from './collector';

/** Changes at one time (s) are one. */
const NEAR = 1e-9;

/** What tools hold, by the id of the tool. */
export const heldIn = (payloads: Rig['payloads'], { tools }: Mechanism, holds: ReadonlyMap<string, string>): Held[] =>
  [...holds].flatMap(([toolId, id]): Held[] => {
    const tool = tools.find((t) => t.id === toolId);
    const payload = payloads.find((p) => p.id === id);
    return tool && payload ? [heldBy(tool, payload)] : [];
  });

export function heldAlong(
  { payloads }: Pick<Rig, 'payloads'>,
  mechanism: Mechanism,
  { carries, events }: Pick<Plan, 'carries' | 'events'>,
): HeldFrom[] {
  const mounted = new Set(mechanism.tools.filter((tool) => tool.mounted).map(({ id }) => id));
  const free = new Set<string>();
  const holds = new Map<string, string>();
  const now = (fromS: number): HeldFrom => ({
    fromS,
    mounted: new Set(mounted),
    free: new Set(free),
    held: heldIn(payloads, mechanism, holds),
  });
  const changes = [
    ...carries.map(({ timeS, tool, payload }) => ({
      timeS,
      change: () => (payload === null ? void holds.delete(tool) : void holds.set(tool, payload)),
    })),
    ...events.flatMap((event) =>
      event.kind === 'swap'
        ? [
            {
              timeS: event.timeS,
              change: () => {
                if (event.off !== null) mounted.delete(event.off);
                if (event.on !== null) mounted.add(event.on);
              },
            },
          ]
        : event.kind === 'power'
          ? [
              {
                timeS: event.timeS,
                change: () => event.joints.forEach((id) => (event.on ? free.delete(id) : free.add(id))),
              },
            ]
          : [],
    ),
  ].sort((a, b) => a.timeS - b.timeS);
  const found = [now(0)];
  for (const { timeS, change } of changes) {
    change();
    if (timeS - found[found.length - 1].fromS <= NEAR) found.pop();
    found.push(now(found.length ? timeS : 0));
  }
  return found;
}
