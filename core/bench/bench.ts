/** One JSON line a measure: { name, perSecond | ms, n }. Run by `npm run bench`; nothing here is asserted. */
import { kilnLoader, tileDipper } from '../../demo';
import { tableToCsv } from '../src/commands';
import { driveMaps } from '../src/actuators';
import {
  chainInto,
  chainJacobianInto,
  chainOf,
  chainSpace,
  closedFormOf,
  Follower,
  forward,
  framesInto,
  kinematicsSpace,
  NumericSolver,
  numericSolutions,
  solveInverse,
  toolInto,
  type Task,
} from '../src/kinematics';
import { compiled, deltaDoc, fourAxis, poseOf, sixAxis } from '../src/kinematics/arms.testkit';
import { Dynamics, worstJob } from '../src/loads';
import { compile, type Mechanism } from '../src/mechanism';
import { axisOf, positionOf, seededRandom } from '../src/linear';
import { finish } from '../src/jobs';
import { reachMapJob } from '../src/reach';
import { contactFindings, MoveCache, type Plan, planMotion, planRoutine } from '../src/routine';
import { mechanismSchema, type Routine, type Step } from '../src/rig';
import { commandTable } from '../src/commands';
import { exportOf, type Source } from '../src/exports';

const rounded = (ms: number): number => Math.round(ms * 1000) / 1000;
const say = (line: object): void => console.log(JSON.stringify(line));

/** Rounds of a measure: many short ones, since on a shared machine a long one never has the core to itself. */
const ROUNDS = 25;
/** Best of the rounds, each a fifth of `n`. */
function perSecond(name: string, n: number, work: (i: number) => void): void {
  for (let i = 0; i < Math.min(n, 20_000); i++) work(i);
  const each = n / 5;
  let best = 0;
  for (let round = 0; round < ROUNDS; round++) {
    const begun = performance.now();
    for (let i = 0; i < each; i++) work(i);
    best = Math.max(best, (each / (performance.now() - begun)) * 1000);
  }
  say({ name, perSecond: Math.round(best), n });
}
function ms(name: string, n: number, work: () => void): void {
  work();
  const times = Array.from({ length: n }, () => {
    const begun = performance.now();
    work();
    return performance.now() - begun;
  }).sort((a, b) => a - b);
  say({ name, ms: rounded(times[n >> 1]), n });
}

/** Seeded shares in 0..1 (additive recurrence of the golden ratio). */
const shares = (i: number): number[] =>
  Array.from({ length: 7 }, (_, k) => ((i + 1) * 0.6180339887 * (k + 1) + k * 0.37) % 1);
const poses = (mechanism: Mechanism, n = 256): Float64Array[] =>
  Array.from({ length: n }, (_, i) => poseOf(mechanism, shares(i), 0.06));

for (const [name, doc] of [
  ['4axis', fourAxis()],
  ['6r-spherical', sixAxis()],
  ['6r-offset', sixAxis(18)],
] as const) {
  const mechanism = compiled(doc);
  const space = kinematicsSpace(mechanism);
  const list = poses(mechanism);
  const chain = chainOf(mechanism, mechanism.tools[0]);
  const own = chainSpace(chain);
  perSecond(`fk.${name}`, 1_000_000, (i) => chainInto(own, chain, list[i & 255]));
  if (name === '6r-spherical') {
    const tool = new Float64Array(12);
    perSecond(`fk-tree.${name}`, 1_000_000, (i) => {
      framesInto(space, mechanism, list[i & 255]);
      toolInto(tool, 0, mechanism, space, mechanism.tools[0]);
    });
    const weighing = { mass: 0.3, com: [0.01, 0.02, 0.08] as const, inertia: [0, 0, 0, 0, 0, 0] as const };
    const dynamics = new Dynamics({ ...mechanism, bodies: mechanism.bodies.map(() => weighing) });
    const torques = new Float64Array(mechanism.m);
    perSecond(`gravity.${name}`, 1_000_000, (i) => dynamics.gravityInto(torques, list[i & 255]));
    const still = new Float64Array(mechanism.m);
    perSecond(`dynamics.${name}`, 100_000, (i) => void dynamics.torquesInto(torques, list[i & 255], still, still));
    const J = new Float64Array(6 * mechanism.m);
    perSecond(`jacobian.${name}`, 500_000, (i) => {
      chainInto(own, chain, list[i & 255]);
      chainJacobianInto(J, own, chain);
    });
  }
  const targets = list.map((q) => {
    framesInto(space, mechanism, q);
    const frame = new Float64Array(12);
    toolInto(frame, 0, mechanism, space, mechanism.tools[0]);
    return frame;
  });
  if (name === '4axis') {
    perSecond('ik-closed.4axis', 20_000, (i) => {
      const frame = targets[i & 255];
      solveInverse(mechanism, mechanism.tools[0], {
        kind: 'direction',
        position: positionOf(frame),
        direction: axisOf(frame, 2),
      });
    });
    continue;
  }
  if (name === '6r-spherical') {
    const form = closedFormOf(mechanism, mechanism.tools[0])!;
    if (form.inner.kind !== 'spherical') throw new Error('six axes are no longer recognised');
    const { solver: closed } = form.inner;
    let branches = 0;
    let asked = 0;
    perSecond('ik-closed.6r-spherical', 100_000, (i) => {
      const f = targets[i & 255];
      branches += closed.solve(f[9], f[10], f[11], f, mechanism.home, true);
      asked++;
    });
    say({ name: 'ik-closed.6r-spherical.branches', mean: Math.round((branches / asked) * 100) / 100, n: asked });
    perSecond('ik-inverse.6r-spherical', 20_000, (i) => {
      const rotation = targets[i & 255];
      solveInverse(mechanism, mechanism.tools[0], { kind: 'full', position: positionOf(rotation), rotation });
    });
  }
  const solver = new NumericSolver(mechanism, mechanism.tools[0], { quick: true });
  const tasks = targets.map((frame) => ({ kind: 'full' as const, position: positionOf(frame), rotation: frame }));
  const starts = list.map((pose) => pose.map((v, s) => v + (s % 2 ? 0.3 : -0.3)));
  const q = new Float64Array(mechanism.m);
  let iterations = 0;
  let hits = 0;
  let runs = 0;
  perSecond(`ik-numeric.${name}`, 50_000, (i) => {
    q.set(starts[i & 255]);
    solver.solveInto(q, tasks[i & 255]);
    iterations += solver.iterations;
    runs++;
    if (solver.distance < 1e-6 && solver.angle < 1e-6) hits++;
  });
  say({
    name: `ik-numeric.${name}.iterations`,
    mean: Math.round((iterations / runs) * 100) / 100,
    hits: hits / runs,
    n: runs,
  });
}

const tree = mechanismSchema.parse({
  joints: Array.from({ length: 30 }, (_, i) => ({
    id: `j${i}`,
    type: 'revolute',
    parent: i ? `j${(i * 7) % i}` : null,
    axis: [0, i % 2, 1 - (i % 2)],
    origin: { xyzMm: [0, 0, 50] },
  })),
});
ms('compile.30-joints', 200, () => void compile(tree));

{
  const six = compiled(sixAxis());
  const request = { plane: 'side' as const, height: 0.2, direction: null, samples: 200_000, seed: 1, cell: 0 };
  ms('reach-map.6r-200k', 5, () => void finish(reachMapJob(six, six.tools[0], request)));
  ms('reach-map.6r-200k.plan', 5, () => void finish(reachMapJob(six, six.tools[0], { ...request, plane: 'plan' })));
  ms('reach-map.6r-200k.shell', 3, () => void finish(reachMapJob(six, six.tools[0], { ...request, plane: 'shell' })));
  const delta = compiled(deltaDoc());
  ms('reach-map.delta', 5, () => void finish(reachMapJob(delta, delta.tools[0], { ...request, height: 0.05 })));
  // A drag at 60 Hz round a circle, a third of it beyond the reach; the worst frame counts.
  for (const [name, doc, kind] of [
    ['4axis', fourAxis(), 'direction'],
    ['6r-offset', sixAxis(18), 'full'],
    ['delta', deltaDoc(), 'free'],
  ] as const) {
    const arm = compiled(doc);
    const follower = new Follower(arm, [{ tool: arm.tools[0] }]);
    const home = forward(arm, arm.home).tools.get(arm.tools[0].id)!;
    const [x, y, z] = kind === 'direction' ? [0.2, 0, 0.15] : positionOf(home);
    const across = kind === 'free' ? 0.12 : 0.2;
    const times: number[] = [];
    let at = arm.home;
    for (let k = 0; k < 600; k++) {
      const turn = (k / 60) * Math.PI;
      const position = [x + across * Math.cos(turn), y + across * Math.sin(turn), z] as const;
      const task: Task =
        kind === 'free'
          ? { kind, position }
          : kind === 'full'
            ? { kind, position, rotation: home }
            : { kind, position, direction: [0, 0, -1] };
      const begun = performance.now();
      at = follower.step(at, [task]).q;
      times.push(performance.now() - begun);
    }
    times.sort((a, b) => a - b);
    say({ name: `drag.${name}-step`, ms: rounded(times[300]), worstMs: rounded(times.at(-1)!), n: 600 });
  }
  // Cold starts: every target is the tool of a random pose inside the limits.
  for (const [name, offset] of [
    ['spherical', 0],
    ['offset', 18],
  ] as const) {
    const arm = compiled(sixAxis(offset));
    const random = seededRandom(11);
    const times: number[] = [];
    let missed = 0;
    for (let i = 0; i < 2000; i++) {
      const frame = forward(arm, poseOf(arm, Array.from({ length: 6 }, random))).tools.get('tool')!;
      const task = { kind: 'full' as const, position: positionOf(frame), rotation: frame };
      const begun = performance.now();
      if (!numericSolutions(arm, [{ tool: arm.tools[0], task }], arm.home, { first: true }).length) missed++;
      times.push(performance.now() - begun);
    }
    times.sort((a, b) => a - b);
    say({ name: `ik-cold.6r-${name}`, ms: rounded(times[1000]), worstMs: rounded(times.at(-1)!), missed, n: 2000 });
  }
}

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
ms('plan.tile-dipper', 100, () => void planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]));
// Sixty steps, half of them straight, all different, without anything kept from before.
const sixty: Routine = {
  ...rig.routines[0],
  id: 'sixty',
  steps: Array.from({ length: 60 }, (_, k): Step => {
    const base = { id: `s${k}`, enabled: true, note: '', pace: { speedShare: 0.8 } };
    const at = (k * 37) % 60;
    return k % 2
      ? {
          ...base,
          kind: 'straight-move',
          target: { shift: { xyzMm: [0, k % 4 === 1 ? 30 : -30, -20 + (k % 3) * 10], along: 'world' } },
        }
      : {
          ...base,
          kind: 'joint-move',
          target: { joints: { turn: at - 30, shoulder: 20 + (k % 5), elbow: 80, wrist: 70 } },
        };
  }),
};
const planOf = (routine: Routine, cache?: MoveCache, horizonS?: number): Plan =>
  planRoutine(rig, mechanism, rig.builds[0], routine, { cache, horizonS });
ms('plan.60-steps', 10, () => void planOf(sixty));
const kept = new MoveCache();
const whole = planOf(sixty, kept);
if (whole.findings.some((f) => f.severity === 'stop')) throw new Error(whole.findings[0].message);
ms('contact.60-steps', 3, () => void finish(contactFindings(rig, mechanism, rig.builds[0], sixty, whole)));
let edits = 0;
ms('replan.one-edit', 10, () => {
  const steps = [...sixty.steps];
  const step = steps[20];
  if (step.kind === 'joint-move') steps[20] = { ...step, pace: { speedShare: 0.5 + (edits++ % 40) / 100 } };
  planOf({ ...sixty, steps }, kept);
});
const forEver: Routine = {
  ...rig.routines[0],
  steps: [
    { id: 'again', kind: 'repeat', enabled: true, note: '', times: null },
    ...rig.routines[0].steps,
    { id: 'end', kind: 'end', enabled: true, note: '' },
  ],
};
ms('unroll.1h', 3, () => void planOf(forEver, undefined, 3600));
const plan = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
const maps = driveMaps(rig, mechanism, rig.builds[0]);
ms(
  'csv.tile-dipper-50hz',
  20,
  () =>
    void tableToCsv(rig, mechanism, commandTable(mechanism, maps, planMotion(plan), 50), {
      delimiter: ',',
      columns: 'both',
    }),
);
const hour = planMotion(planOf(forEver, undefined, 3600));
ms(
  'csv.1h-100hz',
  3,
  () =>
    void tableToCsv(rig, mechanism, commandTable(mechanism, maps, hour, 100), {
      delimiter: ',',
      columns: 'commands',
    }),
);
const firmware = exportOf('firmware')!;
const source: Source = {
  ...{ rig, mechanism, build: rig.builds[0], rigId: 'tile-dipper', revision: 1, q: mechanism.home },
  planned: { routine: rig.routines[0], plan, motion: planMotion(plan) },
};
for (const kind of ['bridge', 'table-player', 'register-slave'])
  ms(`firmware.generate.${kind}`, 5, () => void firmware.write(source, { kind }));
// Nothing is kept of a rig that is another one.
ms(
  'firmware.generate.step-player',
  5,
  () => void firmware.write({ ...source, rig: { ...rig } }, { kind: 'step-player' }),
);
const six = sixAxis();
for (const joint of six.joints)
  if (joint.type !== 'fixed') joint.link = { massG: 300, comMm: [10, 20, 80], radiusMm: 0, inertiaKgM2: null };
six.base.feet = ([1, 2, 3, 4] as const).map((k) => [150 * Math.cos(1.57 * k), 150 * Math.sin(1.57 * k)]);
const standing = { ...kilnLoader(), mechanism: six, drives: [], transmissions: [] };
const weighing = compiled(six);
ms('loads.100k-poses', 5, () => void finish(worstJob(standing, weighing, [], null, { samples: 100_000, seed: 1 })));
