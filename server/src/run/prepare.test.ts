import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { finish } from '@cork-elbow/core/jobs';
import { proposeHoming, restPose } from '@cork-elbow/core/bring-up';
import { compile, confirmedLimits, type Mechanism } from '@cork-elbow/core/mechanism';
import { loadFindings, planCommands, planMotion, planRoutine, preflight } from '@cork-elbow/core/routine';
import type { Build, Rig, Step } from '@cork-elbow/core/rig';
import { demoRigs, kilnLoader, tileDipper } from '@cork-elbow/demo';
import { prepareRun, type PreparedRun } from './prepare';
import type { RunRequest } from './events';
import { poseAt, sampleBuffers } from '@cork-elbow/core/motion';
import { commandMaps } from '@cork-elbow/core/actuators';
import { between } from '../../../core/src/units/between.testkit';

const compiled = (rig: Rig, build: Build = rig.builds[0]): Mechanism => {
  const result = compile(rig.mechanism, build.mounting);
  if (!result.ok) throw new Error(result.faults[0].message);
  return result.mechanism;
};
const request = (rig: Rig, more: Partial<RunRequest> = {}): RunRequest => ({
  ...{ id: 'r', rigId: 'x', revision: 1, buildId: rig.builds[0].id, routineId: rig.routines[0].id },
  ...more,
});
type Ready = Extract<PreparedRun, { ok: true }>;
function ready(course: PreparedRun): Ready {
  if (!course.ok) throw new Error(course.message);
  return course;
}
/** Every routine of a demo rig that can be run from where the arm rests, its way known to the end. */
const runs = demoRigs().flatMap(({ rig }) =>
  rig.routines.flatMap((routine) => {
    const stands = restPose(rig, compiled(rig));
    const course = prepareRun(request(rig, { routineId: routine.id }), rig, () => stands);
    return course.ok && !course.ask ? [{ rig, routineId: routine.id, stands }] : [];
  }),
);
const shares = fc.array(between(0.1, 0.9), { minLength: 8, maxLength: 8 });

describe('a run before it begins', () => {
  it.each(demoRigs().map(({ id, rig }) => [id, rig] as const))(
    '%s: does not begin where a motor is too weak for its way, by the same findings that the page shows',
    (_, document) => {
      const rig = structuredClone(document);
      for (const drive of rig.drives) {
        drive.stallNm *= 0.02;
        if (drive.holdNm !== undefined) drive.holdNm *= 0.02;
        drive.torqueAtSpeed?.forEach((point) => (point.nm *= 0.02));
      }
      const mechanism = confirmedLimits(compiled(rig), rig.builds[0]);
      for (const routine of rig.routines) {
        const course = prepareRun(request(rig, { routineId: routine.id }), rig, () => restPose(rig, mechanism));
        const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
        const isPlanned = preflight(rig, mechanism, rig.builds[0], plan).every(({ severity }) => severity !== 'stop');
        const heavy = finish(loadFindings(rig, mechanism, plan)).filter(({ severity }) => severity === 'stop');
        if (!isPlanned || !plan.durationS) continue;
        if (heavy.length) expect(course).toMatchObject({ ok: false, code: 'run-refused', findings: heavy });
        else if (!course.ok)
          expect(course.findings.map(({ code }) => code)).not.toContainEqual(expect.stringMatching(/^load-/));
      }
      const first = prepareRun(request(rig), rig, () => restPose(rig, mechanism));
      expect(first.ok).toBe(false);
    },
  );
  it('is there for the demo’s routines', () => expect(runs.length).toBeGreaterThanOrEqual(3));
  it('goes without a jump from wherever the arm stands to where the routine ends', () => {
    fc.assert(
      fc.property(fc.constantFrom(...runs), shares, ({ rig, routineId }, f) => {
        const mechanism = compiled(rig);
        const stands = mechanism.home.map((v, s) => {
          const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
          return Number.isFinite(high - low) ? low + f[s % f.length] * (high - low) : v;
        });
        const { motion, lead } = ready(prepareRun(request(rig, { routineId }), rig, () => stands));
        const [p, v, a] = sampleBuffers(mechanism.m);
        motion.sampleInto(p, v, a, 0);
        for (let s = 0; s < mechanism.m; s++) expect(p[s]).toBeCloseTo(stands[s], 3);
        // A millisecond apart no joint goes further than its speed lets it; the first move at a quarter.
        const before = p.slice();
        let worst = -Infinity;
        for (let t = 0.001; t < Math.min(motion.durationS, lead + 2); t += 0.001) {
          motion.sampleInto(p, v, a, t);
          for (let s = 0; s < mechanism.m; s++) {
            const most = mechanism.speed[s] * (t < lead ? 0.25 : 1);
            worst = Math.max(worst, Math.abs(p[s] - before[s]) - most * 0.001 * 1.02);
          }
          before.set(p);
        }
        expect(worst).toBeLessThanOrEqual(1e-6);
        const own = planRoutine(
          rig,
          confirmedLimits(mechanism, rig.builds[0]),
          rig.builds[0],
          rig.routines.find((r) => r.id === routineId)!,
        );
        poseAt(motion, motion.durationS).forEach((q, s) =>
          expect(q).toBeCloseTo(poseAt(planMotion(own), own.durationS)[s], 9),
        );
      }),
      { numRuns: 6 },
    );
  });
  it('needs no way to the start where the arm stands there', () => {
    const rig = tileDipper();
    const mechanism = compiled(rig);
    const own = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
    const at = poseAt(planMotion(own), 0);
    expect(ready(prepareRun(request(rig), rig, () => at)).lead).toBe(0);
    at[1] += (0.06 * Math.PI) / 180;
    expect(ready(prepareRun(request(rig), rig, () => at)).lead).toBeGreaterThan(0);
  });
  it('from a step begins at the beginning of what moves then, and keeps all that comes after', () => {
    const rig = tileDipper();
    const mechanism = compiled(rig);
    const stands = restPose(rig, mechanism);
    const whole = ready(prepareRun(request(rig), rig, () => stands));
    const own = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
    for (const step of own.steps) {
      const { motion, from, lead } = ready(prepareRun(request(rig, { fromStep: step.stepId }), rig, () => stands));
      expect(from).toBeLessThanOrEqual(step.startS + 1e-9);
      const [, v, a] = sampleBuffers(mechanism.m);
      const p = new Float64Array(mechanism.m);
      // It stands still where the way to the step ends.
      motion.sampleInto(p, v, a, lead);
      for (const speed of v) expect(Math.abs(speed)).toBeLessThan(1e-6);
      p.forEach((q, s) => expect(q).toBeCloseTo(poseAt(planMotion(own), from)[s], 6));
      expect(motion.durationS - lead).toBeCloseTo(own.durationS - from, 9);
      for (const share of [0.1, 0.35, 0.6, 0.85]) {
        const dt = share * (own.durationS - from);
        poseAt(motion, lead + dt).forEach((q, s) => expect(q).toBeCloseTo(poseAt(planMotion(own), from + dt)[s], 9));
      }
    }
    expect(whole.from).toBe(0);
    expect(prepareRun(request(rig, { fromStep: 'nobody' }), rig, () => stands)).toMatchObject({ ok: false });
  });
  it('goes slowly while the arm has not homed, unless somebody says that it stands as drawn', () => {
    const rig = kilnLoader();
    const stands = restPose(rig, compiled(rig));
    const of = (doc: Rig, more: Partial<RunRequest> = {}): number =>
      ready(prepareRun(request(doc, more), doc, () => stands)).full;
    expect(of(rig)).toBe(rig.homing.parked?.speedShare ?? 0.25);
    expect(of(rig, { asDrawn: true })).toBe(1);
    expect(of({ ...rig, homing: { ...rig.homing, axes: [] } })).toBe(1);
    expect(of({ ...rig, homing: { ...rig.homing, parked: null } })).toBe(0.25);
  });
  it('is refused where motors are told to jump and the arm has not homed: that cannot be slowed', () => {
    const rig = tileDipper();
    const mechanism = compiled(rig);
    const stands = restPose(rig, mechanism);
    const jump = { ...rig, motion: { ...rig.motion, school: 'jump' as const } };
    const unhomed = { ...jump, homing: { ...rig.homing, axes: [proposeHoming(rig, mechanism, 'turn')] } };
    expect(prepareRun(request(unhomed), unhomed, () => stands)).toMatchObject({
      ok: false,
      code: 'run-refused',
      findings: [{ code: 'jump-unverified' }],
    });
    expect(prepareRun(request(unhomed, { asDrawn: true }), unhomed, () => stands)).toMatchObject({
      ok: true,
      full: 1,
    });
    expect(prepareRun(request(jump), jump, () => stands)).toMatchObject({ ok: true });
    // And a stepper never jumps.
    const loader = { ...kilnLoader(), motion: jump.motion };
    expect(
      prepareRun(request(loader, { asDrawn: true }), loader, () => restPose(loader, compiled(loader))),
    ).toMatchObject({
      ok: false,
      findings: expect.arrayContaining([expect.objectContaining({ code: 'jump-stepper' })]),
    });
  });
  it('goes gently to its begin by every way of telling, and is told nothing of the plan until then', () => {
    for (const school of ['low-pass', 'jump'] as const) {
      const rig = { ...tileDipper(), motion: { ...tileDipper().motion, school } };
      const mechanism = compiled(rig);
      const stands = mechanism.home.map((v, s) => Math.max(mechanism.lower[s], v - 0.4));
      const { motion, lead, plan } = ready(prepareRun(request(rig), rig, () => stands));
      expect(lead).toBeGreaterThan(0.5);
      let before = poseAt(motion, 0);
      for (let t = 0.01; t <= lead; t += 0.01) {
        const here = poseAt(motion, t);
        for (let s = 0; s < mechanism.m; s++)
          expect(Math.abs(here[s] - before[s])).toBeLessThanOrEqual(0.25 * mechanism.speed[s] * 0.01 * 1.02);
        before = here;
      }
      const told = planCommands(rig, mechanism, commandMaps(rig, mechanism, rig.builds[0]), plan);
      for (const t of [0.02, 1, 3.3]) expect(poseAt(motion, lead + t)).toEqual(poseAt(told, t));
    }
  });
  it('that comes again for ever is laid out once more, in the same pose where it goes round', () => {
    const rig = structuredClone(tileDipper()) as Rig;
    const step = (kind: string, more: object = {}): Step =>
      ({ kind, id: `s-${kind}-${JSON.stringify(more).length}`, enabled: true, note: '', ...more }) as Step;
    rig.routines[0].steps = [
      step('joint-move', { target: { joints: { turn: 10 } }, pace: { speedShare: 0.5 } }),
      step('repeat', { times: null }),
      step('joint-move', { target: { joints: { turn: -10 } }, pace: { speedShare: 0.5 } }),
      step('joint-move', { target: { joints: { turn: 25.5 } }, pace: { speedShare: 0.5 } }),
      step('end'),
    ];
    const mechanism = compiled(rig);
    const { motion, round } = ready(prepareRun(request(rig), rig, () => restPose(rig, mechanism)));
    expect(round).not.toBeNull();
    const { atS, lapS } = round!;
    expect(motion.durationS).toBeCloseTo(atS + lapS, 9);
    const turn = mechanism.slotOf.get('turn')!;
    for (const share of [0, 0.2, 0.5, 0.9]) {
      const one = poseAt(motion, atS + share * lapS)[turn];
      const other = poseAt(motion, atS - lapS + share * lapS)[turn];
      // The first lap comes from elsewhere than the later ones only in how it begins.
      if (share > 0.5) expect(one).toBeCloseTo(other, 6);
    }
    expect(ready(prepareRun(request(tileDipper()), tileDipper(), () => restPose(rig, mechanism))).round).toBeNull();
  });
  it('that cannot be is refused in a sentence, with its findings where there are any', () => {
    const rig = tileDipper();
    const stands = restPose(rig, compiled(rig));
    const said = (doc: Rig, more: Partial<RunRequest> = {}): string => {
      const course = prepareRun(request(doc, more), doc, () => stands);
      return course.ok ? 'ready' : course.message;
    };
    expect(said(rig, { routineId: 'dance' })).toMatch(/no such routine/);
    expect(said(rig, { buildId: 'b99' })).toMatch(/no such routine or build/);
    const idle = structuredClone(rig) as Rig;
    idle.routines[0].steps = [];
    expect(said(idle)).toBe('The routine has nothing to do.');
    const gone = structuredClone(rig) as Rig;
    gone.routines[0].steps[0] = { ...gone.routines[0].steps[0], target: { pose: 'nowhere' } } as Step;
    const course = prepareRun(request(gone), gone, () => stands);
    expect(course).toMatchObject({ ok: false, findings: [{ code: 'pose-unknown', severity: 'stop' }] });
  });
});
