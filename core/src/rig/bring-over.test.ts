import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { anyRoutine } from '../routine/routine.testkit';
import { bringable, bringOver, listOf, usesIn, type Rig } from './index';

const rigs = demoRigs().map(({ rig }) => rig);
const anyRig = fc
  .constantFrom(...rigs)
  .chain((rig) => anyRoutine(rig, 8).map((routine): Rig => ({ ...rig, routines: [...rig.routines, routine] })));
const plain = (rig: Rig): Rig => JSON.parse(JSON.stringify(rig)) as Rig;
const without = (item: object): object => ({ ...item, id: undefined, role: undefined });

describe('what is brought over from another rig', () => {
  it('leaves a rig that opens, with all that was there as it was, whatever the two are', () => {
    fc.assert(
      fc.property(anyRig, anyRig, fc.subarray([...bringable]), (mine, theirs, kinds) => {
        const draft = plain(mine);
        const came = bringOver(draft, theirs, kinds);
        const back = admit(draft);
        expect(back.ok ? '' : back.faults[0].message).toBe('');
        for (const kind of bringable) {
          const [before, after] = [listOf(mine, kind), listOf(draft, kind)];
          expect(after.slice(0, before.length)).toEqual(plain(mine)[`${kind}s`]);
          expect(after.length - before.length).toBe(came[kind]);
          if (!kinds.includes(kind)) expect(came[kind]).toBe(0);
          expect(new Set(after.map(({ id }) => id)).size).toBe(after.length);
        }
      }),
      { numRuns: 60 },
    );
  });
  it('from the rig itself is nothing', () => {
    fc.assert(
      fc.property(anyRig, (mine) => {
        const draft = plain(mine);
        expect(bringOver(draft, mine)).toEqual({ spot: 0, payload: 0, pose: 0, routine: 0 });
        expect(draft).toEqual(plain(mine));
      }),
      { numRuns: 30 },
    );
  });
  it('a routine goes on naming what it named: under a new id where its own was taken', () => {
    const theirs = plain(tileDipper());
    const mine = plain(tileDipper());
    // Another thing of the same id in each list that the routine names.
    mine.poses.forEach((pose) => (pose.note = 'mine'));
    mine.spots.forEach((spot) => (spot.xyzMm = [1, 2, 3]));
    mine.payloads.forEach((payload) => (payload.massG = 1));
    mine.routines = [];
    const before = plain(mine);
    const came = bringOver(mine, theirs);
    expect(came).toMatchObject({ pose: theirs.poses.length, routine: theirs.routines.length });
    const named = (rig: Rig, k: number) =>
      [...usesIn(rig)].filter(({ path }) => path[0] === 'routines' && path[1] === k);
    theirs.routines.forEach((_, k) => {
      const [old, now] = [named(theirs, k), named(mine, k)];
      expect(now.length).toBe(old.length);
      now.forEach(({ reference: { to }, id }, i) => {
        if (!(bringable as readonly string[]).includes(to)) return expect(id).toBe(old[i].id);
        const of = (rig: Rig, key: string) => without(listOf(rig, to).find((item) => item.id === key)!);
        if (to !== 'routine') expect(of(mine, id)).toEqual(of(theirs, old[i].id));
        expect(listOf(before, to).some((item) => item.id === id)).toBe(false);
      });
    });
  });
  it('joints that are not here are left out of poses, and one routine parks', () => {
    const mine = plain(tileDipper());
    const theirs = plain(kilnLoader());
    bringOver(mine, theirs);
    const joints = new Set<string>(mine.mechanism.joints.map(({ id }) => id));
    for (const pose of mine.poses) for (const id of Object.keys(pose.joints)) expect(joints.has(id)).toBe(true);
    const parks = mine.routines.filter(({ role }) => role === 'park');
    expect(parks.map(({ id }) => id)).toEqual(
      tileDipper()
        .routines.filter(({ role }) => role === 'park')
        .map(({ id }) => id),
    );
  });
});
