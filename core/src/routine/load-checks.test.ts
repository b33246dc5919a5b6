import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { finish } from '../jobs';
import { alongJob, loadedMotors } from '../loads';
import { presets, rigFromPreset } from '../presets';
import type { Rig, StepOf, TreeDoc } from '../rig';
import { heldAlong, loadFindings, planMotion, planRoutine } from './index';

const opened = (document: Rig) => {
  const made = admit(document);
  if (!made.ok) throw new Error(made.faults[0].message);
  const { rig, mechanism } = made;
  const plan = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
  return { rig, mechanism, plan };
};
const found = (document: Rig) => {
  const { rig, mechanism, plan } = opened(document);
  return finish(loadFindings(rig, mechanism, plan));
};
const changed = (edit: (rig: Rig) => void): Rig => {
  const rig = structuredClone(tileDipper());
  edit(rig);
  return rig;
};
const driveOf = (rig: Rig, joint: string) => {
  const id = rig.transmissions.find(({ joints }) => joints.includes(joint))!.drives[0];
  return rig.drives.find((drive) => drive.id === id)!;
};

describe('what a routine is too heavy for', () => {
  it('is nothing in the demo', () => {
    for (const { id, rig: document } of demoRigs()) {
      const made = admit(document);
      if (!made.ok) throw new Error(id);
      const { rig, mechanism } = made;
      for (const routine of rig.routines) {
        const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
        expect(finish(loadFindings(rig, mechanism, plan)), `${id} ${routine.id}`).toEqual([]);
      }
    }
  });
  it('is told by joint, figures and moment: what it may not give for long, what it has not, what it could not lift again', () => {
    const most = (share: number): Rig =>
      changed((rig) => {
        const drive = driveOf(rig, 'shoulder');
        // It takes 0.42 N·m in this routine.
        Object.assign(drive, { stallNm: 1, holdNm: share, torqueAtSpeed: [{ degPerS: 900, nm: 1 }] });
      });
    expect(found(most(0.5))).toEqual([]);
    const [over, ...more] = found(most(0.3));
    expect(more).toEqual([]);
    expect(over).toMatchObject({
      code: 'load-over',
      severity: 'look',
      place: { station: 'load', joint: 'shoulder' },
    });
    expect(over.message).toMatch(/^Shoulder is asked for 0\.42\d N·m at .* s; it may give 0\.3 N·m for long\.$/);
    const weak = found(
      changed((rig) => {
        const drive = driveOf(rig, 'shoulder');
        Object.assign(drive, { stallNm: 0.2, holdNm: 0.1, torqueAtSpeed: [{ degPerS: 900, nm: 0.2 }] });
      }),
    );
    expect(weak).toMatchObject([{ code: 'load-stalls', severity: 'stop' }]);
    const down = found(
      changed((rig) => {
        Object.assign(driveOf(rig, 'elbow'), {
          stallNm: 0.24,
          holdNm: 0.24,
          torqueAtSpeed: [{ degPerS: 900, nm: 0.24 }],
        });
        rig.transmissions.find(({ joints }) => joints.includes('elbow'))!.efficiency = 0.93;
      }),
    );
    expect(down.map(({ code }) => code)).toEqual([expect.stringMatching(/load-(down-only|over|stalls)/)]);
  });
  it('is the base that tips, by how much, and one that hangs without a screw', () => {
    const narrow = found(
      changed((rig) => {
        rig.mechanism.base.feet = rig.mechanism.base.feet.map(([x, y]) => [x / 3, y / 3]);
      }),
    );
    expect(narrow).toMatchObject([
      { code: 'load-tips', severity: 'stop', place: { station: 'load', part: 'stand' } },
    ]);
    expect(narrow[0].data!.by).toBeGreaterThan(0);
    const hanging = changed((rig) => {
      rig.mechanism.base.mounting = { xyzMm: [0, 0, 900], rpyDeg: [180, 0, 0] };
      rig.routines[0].steps = rig.routines[0].steps.filter(({ kind }) => kind === 'wait');
    });
    expect(found(hanging)).toMatchObject([{ code: 'load-lifts-off' }]);
  });
  it('goes by what tools hold, from when to when, and by which of them are on', () => {
    const { rig, mechanism, plan } = opened(tileDipper());
    const holds = heldAlong(rig, mechanism, plan);
    expect(holds[0]).toMatchObject({ fromS: 0, held: [] });
    expect(holds.map(({ held }) => held.length)).toEqual([
      0,
      ...plan.carries.map(({ payload }) => (payload ? 1 : 0)),
    ]);
    expect(holds.slice(1).map(({ fromS }) => fromS)).toEqual(plan.carries.map(({ timeS }) => timeS));
    expect(holds[1].held[0].body.mass).toBeCloseTo(0.042, 12);
    const [tool] = mechanism.tools;
    const swapped = heldAlong(rig, mechanism, {
      carries: [],
      events: [{ kind: 'swap', timeS: 2, off: tool.id, on: null, stepId: 's', index: 0, routine: 'r' }],
    });
    expect(swapped.map(({ fromS, mounted }) => [fromS, mounted!.has(tool.id)])).toEqual([
      [0, true],
      [2, false],
    ]);
  });
  it('is a jaw that goes on closing on what it holds for more than 2 s, unless it is told how wide that is or stops at a force', () => {
    const dip = (edit: (step: StepOf<'grip'>, rig: Rig) => void): Rig =>
      changed((rig) => {
        const step = rig.routines[0].steps.find((s) => s.kind === 'grip' && s.payload) as StepOf<'grip'>;
        edit(step, rig);
      });
    const codes = (rig: Rig) => found(rig).map(({ code }) => code);
    const held = dip((step, rig) => {
      step.to = 'closed';
      rig.payloads.find(({ id }) => id === step.payload)!.sizeMm = [30, 30, 12];
    });
    const [stalls] = found(held);
    expect(stalls).toMatchObject({ code: 'grip-stalls', severity: 'look', place: { station: 'routine' } });
    expect(Number(stalls.data!.past)).toBeGreaterThan(1);
    expect(Number(stalls.data!.seconds)).toBeGreaterThan(2);
    const steps = (edit: (step: StepOf<'grip'>, rig: Rig) => void): Rig => {
      const rig = structuredClone(held);
      edit(rig.routines[0].steps.find((s) => s.kind === 'grip' && s.payload) as StepOf<'grip'>, rig);
      return rig;
    };
    expect(codes(steps((step) => (step.stopAtN = 5)))).toEqual([]);
    expect(codes(steps((step) => (step.to = { aroundMm: 12 })))).toEqual([]);
    // Let go of at once it has no time to get hot.
    expect(
      codes(
        steps((step, rig) => {
          const own = rig.routines[0].steps;
          const off = own.find((s) => s.kind === 'grip' && s.payload === null)!;
          rig.routines[0].steps = [...own.slice(0, own.indexOf(step) + 1), { ...off, id: 'off' }];
        }),
      ),
    ).toEqual([]);
  });
  it('asks nothing of a joint that is let go, until it is held again', () => {
    const kinds = ['let-go', 'wait', 'hold', 'wait'] as const;
    const { rig, mechanism, plan } = opened(
      changed((document) => {
        document.routines[0].steps = kinds.map((kind, k) => ({
          ...{ kind, id: `s${k}`, enabled: true, note: '' },
          ...(kind === 'wait' ? { durationS: 1 } : { joints: ['shoulder'] }),
        })) as Rig['routines'][number]['steps'];
      }),
    );
    const along = finish(alongJob(rig, mechanism, planMotion(plan), heldAlong(rig, mechanism, plan)));
    const k = loadedMotors(rig, mechanism).findIndex(({ slots }) => slots[0] === mechanism.slotOf.get('shoulder'));
    const at = (t: number): number => along.timeS.findIndex((time) => time >= t);
    for (const column of [along.needs[k], along.shares[k], along.amps[k]]) expect(column[at(0.5)]).toBe(0);
    expect(along.needs[k][at(1.5)]).toBeGreaterThan(0.01);
    expect(along.amps[k][at(1.5)]).toBeGreaterThan(0);
  });
  it('is a base that drives in a pose that is not fit for it, or with something in its hand, once a pose is marked as fit', () => {
    /** An arm on a wheel: it stands at home, and the wheel turns for two seconds. */
    const driving = (edit: (rig: Rig) => void): Rig =>
      changed((rig) => {
        const { base, joints } = rig.mechanism as TreeDoc;
        const wheel = {
          id: 'w',
          xyzMm: [0, 90, 20],
          radiusMm: 20,
          widthMm: 10,
          kind: 'driven',
          joint: 'wheel',
        } as const;
        base.wheels = [{ ...wheel, xyzMm: [0, 90, 20] }];
        joints.push({
          ...{ id: 'wheel', type: 'continuous', parent: null, axis: [0, 1, 0], home: 0 },
          origin: { xyzMm: [0, 90, 20], rpyDeg: [0, 0, 0] },
        });
        rig.poses = [{ id: 'fold', name: 'Fold', note: '', joints: homeOf(rig), driving: true }];
        rig.routines[0].steps = [
          { ...step('spin'), kind: 'spin', joint: 'wheel', speed: 40, until: { forS: 2 } },
          { ...step('stop'), kind: 'spin', joint: 'wheel', speed: 0, until: 'stopped' },
        ];
        edit(rig);
      });
    const step = (id: string) => ({ id, enabled: true, note: '' });
    const homeOf = (rig: Rig): Record<string, number> =>
      Object.fromEntries(
        rig.mechanism.joints.flatMap((j) => ('home' in j && !('follows' in j && j.follows) ? [[j.id, j.home]] : [])),
      );
    const codes = (rig: Rig) => found(rig).map(({ code }) => code);
    expect(codes(driving(() => undefined))).toEqual([]);
    const away = driving((rig) => (rig.poses[0].joints.shoulder += 20));
    expect(codes(away)).toEqual(['drive-unfit']);
    expect(found(away)[0]).toMatchObject({ severity: 'stop', place: { station: 'load', part: 'stand' } });
    expect(codes(driving((rig) => (rig.poses[0].joints.wheel = 77)))).toEqual([]);
    // While the base stands the arm may stand as it likes.
    const stands = driving((rig) => {
      rig.poses[0].joints.shoulder += 20;
      rig.routines[0].steps = [{ ...step('wait'), kind: 'wait', durationS: 1 }];
    });
    expect(codes(stands)).toEqual([]);
    const holds = driving((rig) => {
      const [{ id: tool }] = rig.mechanism.tools;
      rig.routines[0].steps.unshift({ ...step('up'), kind: 'pick-up', tool, payload: rig.payloads[0].id });
    });
    expect(codes(holds)).toEqual(['drive-holds']);
    expect(found(holds)[0].message).toContain(holds.payloads[0].name);
    // Where no pose is marked it is not known; and a base that stands in one may still tip as it brakes.
    expect(codes(driving((rig) => delete rig.poses[0].driving))).toEqual(['drive-unmarked']);
    const brakes = driving(({ mechanism: { base } }) => {
      base.travel = { brakeMmPerS2: 20000, mmPerS: 300, turnDegPerS: 0 };
    });
    expect(codes(brakes)).toEqual(['drive-tips']);
    expect(found(brakes)[0].data!.by).toBeGreaterThan(0);
    // A base without an arm drives as it likes.
    const bare = rigFromPreset(
      presets.find(({ id }) => id === 'wheels')!,
      'Bare',
    );
    if (!bare.ok) throw new Error('no wheels');
    const rolls = structuredClone(bare.value);
    rolls.routines[0].steps = [{ ...step('spin'), kind: 'spin', joint: 'wheel-l', speed: 40, until: { forS: 2 } }];
    expect(codes(rolls).filter((code) => code.startsWith('drive-'))).toEqual([]);
  });
});
