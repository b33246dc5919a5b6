import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { deletedBetween, listOf, takeOut, usesOf, type Kind, type Rig } from './index';

const things: { rig: Rig; kind: Kind; id: string; name: string }[] = demoRigs().flatMap(({ rig }) =>
  (['pose', 'spot', 'payload', 'signal', 'sensor', 'rail', 'board', 'drive', 'tool'] as const).flatMap((kind) =>
    listOf(rig, kind).map((item) => ({ rig, kind, id: item.id, name: (item as { name?: string }).name ?? item.id })),
  ),
);

describe('what an edit deleted', () => {
  it('is the thing that is gone, and everybody who named it, each once, as many as are asked for', () => {
    let used = 0;
    fc.assert(
      fc.property(fc.constantFrom(...things), fc.integer({ min: 0, max: 5 }), ({ rig, kind, id, name }, most) => {
        const after = structuredClone(rig) as Rig;
        takeOut(after, kind, id);
        const { names, usedBy, more } = deletedBetween(rig, after, most);
        expect(names).toEqual([name]);
        const users = new Set(usesOf(rig, kind, id).map(({ path }) => path.slice(0, 2).join(' ')));
        expect(usedBy.length + more > 0).toBe(users.size > 0);
        expect(usedBy.length).toBeLessThanOrEqual(most);
        expect(new Set(usedBy).size).toBe(usedBy.length);
        if (users.size) used++;
      }),
    );
    expect(used).toBeGreaterThan(5);
  });
  it('counts nobody who went along, and nothing where only fields changed', () => {
    const { rig } = demoRigs().find(({ id }) => id === 'tile-dipper')!;
    const after = structuredClone(rig) as Rig;
    const [pose] = after.poses;
    takeOut(after, 'pose', pose.id);
    after.routines = [];
    const told = deletedBetween(rig, after, 50);
    expect(told.names).toContain(pose.name);
    expect(told.usedBy.filter((words) => /step/.test(words))).toEqual([]);
    const renamed = structuredClone(rig) as Rig;
    renamed.name = 'Another';
    expect(deletedBetween(rig, renamed)).toEqual({ names: [], usedBy: [], more: 0 });
  });
});
