/** What scripts have computed: the same functions as the pages, by a document or by the id of a rig on the shelf. */
import { bySeverity, type Finding } from '@cork-elbow/core/findings';
import { commandMaps, pinWords, unitOf } from '@cork-elbow/core/actuators';
import { valuesAt } from '@cork-elbow/core/commands';
import {
  contractFindings,
  findingsAnswer,
  findingsBody,
  forwardAnswer,
  forwardBody,
  inverseAnswer,
  inverseBody,
  mapAnswer,
  mapBody,
  motorsValuesAnswer,
  motorsValuesBody,
  planAnswer,
  planBody,
  type ForwardAnswer,
  type InverseAnswer,
} from '@cork-elbow/core/contract';
import { dexterityAt, forward, solveTogether, type Ask, type Solution } from '@cork-elbow/core/kinematics';
import { positionOf, quaternionOf, rpyOf, vec3, type Vec3 } from '@cork-elbow/core/linear';
import { fromSlots, fromUnit, type CompiledTool } from '@cork-elbow/core/mechanism';
import { sampleMotion } from '@cork-elbow/core/motion';
import { cellsOf, reachMapJob } from '@cork-elbow/core/reach';
import { wayFindings, planMotion, preflight, checkRig } from '@cork-elbow/core/routine';
import { toDeg, toM, toMm, toRad } from '@cork-elbow/core/units';
import {
  armOf,
  oneOf,
  planned,
  poseOf,
  rigOf,
  routineOf,
  slotOf,
  slots,
  someTool,
  taskOf,
  toolOf,
  type Arm,
} from './asked';
import { BATCH_LIMIT } from '../limits';
import { defineCall, ManyAnswers, type Call } from './call';
import { apiError, refuse } from '../errors';

const { fault } = contractFindings;

const MAX_SAMPLES = 500_000;
const mm3 = (v: Vec3): [number, number, number] => [toMm(v[0]), toMm(v[1]), toMm(v[2])];

// ── Forward and inverse ─────────────────────────────────────────────────────────────────────────────────────────────

function posed({ mechanism }: Arm, tool: CompiledTool | undefined, q: Float64Array, path: string): ForwardAnswer {
  const { joints, tools, all, gap } = forward(mechanism, q);
  if (gap > 0)
    refuse([
      fault('pose-open', path, 'angles that let the forearms meet', 'angles that do not', { byMm: toMm(gap) }),
    ]);
  const frame = tool && tools.get(tool.id)!;
  return {
    positionMm: frame ? mm3(positionOf(frame)) : null,
    quaternion: frame ? [...quaternionOf(frame)] : null,
    rpyDeg: frame ? (rpyOf(frame).map(toDeg) as [number, number, number]) : null,
    joints: Object.fromEntries(
      mechanism.ids.map((id, j) => [id, mechanism.units[j] === 'mm' ? toMm(all[j]) : toDeg(all[j])]),
    ),
    links: Object.fromEntries(
      [...joints].map(([id, f]) => [
        id,
        { positionMm: mm3(positionOf(f)), quaternion: [...quaternionOf(f)] as [number, number, number, number] },
      ]),
    ),
  };
}

function solved(
  { mechanism, speedOnly }: Arm,
  asks: readonly Ask[],
  near: Float64Array,
  held: ReadonlySet<number>,
  best: boolean,
): InverseAnswer {
  const result = solveTogether(mechanism, asks, near, { held, speedOnly });
  const [{ tool, task }] = asks;
  const answer = (s: Solution): InverseAnswer['solutions'][number] => {
    const { manipulability, evenness } = dexterityAt(mechanism, tool, task.kind, s.q);
    return {
      joints: fromSlots(mechanism, s.q),
      posture: s.posture,
      errorMm: toMm(s.distance),
      errorDeg: toDeg(s.angle),
      limitMargin: s.limitMargin,
      awayS: s.awayS,
      manipulability,
      evenness,
    };
  };
  return {
    reachable: result.reachable,
    solutions: (best ? result.solutions.slice(0, 1) : result.solutions).map(answer),
    reasons: [...result.reasons],
    ...(result.closest ? { closest: answer(result.closest) } : {}),
  };
}

// ── Calls ───────────────────────────────────────────────────────────────────────────────────────────────────────────

export const armCalls: readonly Call[] = [
  defineCall({
    path: '/api/compute/forward',
    summary: 'Where every link and the tool are for given joint values, or for many.',
    body: forwardBody,
    answer: forwardAnswer,
    bodyLimit: BATCH_LIMIT,
    async run(body, desk) {
      const arm = await armOf(desk, body);
      const tool = toolOf(arm.mechanism, body.tool);
      if (!body.poses) return posed(arm, tool, slots(arm, body.joints, 'joints'), 'joints');
      if (Object.keys(body.joints).length) oneOf({ joints: body.joints, poses: body.poses });
      const poses = body.poses.map((joints, i) => [slots(arm, joints, `poses[${i}]`), `poses[${i}]`] as const);
      // A pose that cannot be is found before anything is sent.
      if (arm.mechanism.delta) for (const [q, path] of poses) posed(arm, tool, q, path);
      return ManyAnswers.of(poses, ([q, path]) => posed(arm, tool, q, path));
    },
  }),
  defineCall({
    path: '/api/compute/inverse',
    summary:
      'Joint values that bring the tool to a target, every posture; or why not, and the closest pose. Several tools at once, or many targets.',
    body: inverseBody,
    answer: inverseAnswer,
    bodyLimit: BATCH_LIMIT,
    async run(body, desk) {
      oneOf({ target: body.target, targets: body.targets, batch: body.batch });
      const arm = await armOf(desk, body);
      const { mechanism } = arm;
      const near = slots(arm, body.near ?? {}, 'near');
      const held = new Set((body.held ?? []).map((id, i) => slotOf(mechanism, id, `held[${i}]`)));
      if (!body.batch) {
        const asks = body.targets
          ? body.targets.map(({ tool, target }, i) => ({
              tool: someTool(mechanism, tool, `targets[${i}].tool`),
              task: taskOf(target),
            }))
          : [{ tool: someTool(mechanism, body.tool), task: taskOf(body.target!) }];
        return solved(arm, asks, near, held, body.best);
      }
      const tool = someTool(mechanism, body.tool);
      const asks = body.batch.map(({ target, near: own }, i) => ({
        task: taskOf(target),
        from: own ? slots(arm, own, `batch[${i}].near`) : near,
      }));
      return ManyAnswers.of(asks, ({ task, from }) => solved(arm, [{ tool, task }], from, held, body.best));
    },
  }),
  defineCall({
    path: '/api/compute/plan',
    summary: 'A routine as one planned motion, sampled.',
    body: planBody,
    answer: planAnswer,
    async run(body, desk) {
      const { sampleMs } = body;
      if (!(sampleMs >= 1 && sampleMs <= 1000))
        refuse([fault('rate', 'sampleMs', '1 to 1000 ms', String(sampleMs), { got: sampleMs })]);
      const admitted = await rigOf(desk, body);
      const { rig, mechanism } = admitted;
      const start = slots({ doc: rig.mechanism, mechanism }, body.start ?? {}, 'start');
      const plan = planned(desk, admitted, body.routineId, body.inputs, start);
      const count = Math.ceil(plan.durationS / (sampleMs / 1000));
      if (count > MAX_SAMPLES) throw apiError('plan-too-long', { got: count, max: MAX_SAMPLES });
      desk.doing('sampling the plan');
      const samples = sampleMotion(mechanism, planMotion(plan), sampleMs / 1000);
      const columns = (rows: readonly Float64Array[]): Record<string, number[]> =>
        Object.fromEntries(mechanism.slotIds.map((id, s) => [id, [...rows[s]]]));
      return {
        durationS: plan.durationS,
        findings: [...plan.findings],
        samples: {
          timeS: [...samples.timeS],
          joints: columns(samples.joints),
          speeds: columns(samples.speeds),
          accels: columns(samples.accels),
        },
      };
    },
  }),
  defineCall({
    path: '/api/compute/motors',
    summary: 'What each motor is sent in a pose: µs, counts or steps, held inside its range.',
    body: motorsValuesBody,
    answer: motorsValuesAnswer,
    bodyLimit: BATCH_LIMIT,
    async run(body, desk) {
      const { rig, mechanism, build } = await rigOf(desk, body);
      const maps = commandMaps(rig, mechanism, build);
      const still = new Float64Array(mechanism.m);
      return {
        units: Object.fromEntries(maps.map((map) => [map.drive.id, unitOf(map)])),
        pins: Object.fromEntries(
          maps.flatMap((map) => {
            const words = pinWords(rig, map);
            return words ? [[map.drive.id, words] as const] : [];
          }),
        ),
        answers: body.poses.map((joints, i) =>
          Object.fromEntries(
            valuesAt(maps, mechanism, poseOf({ rig, mechanism }, joints, `poses[${i}]`), still).map(([map, v]) => [
              map.drive.id,
              v,
            ]),
          ),
        ),
      };
    },
  }),
  defineCall({
    path: '/api/compute/findings',
    summary: 'What stands against running a rig, or one routine of it, and what is worth a look.',
    body: findingsBody,
    answer: findingsAnswer,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      const { rig, mechanism, build } = admitted;
      if (body.routineId === undefined) return { findings: [...checkRig(rig, mechanism, build)].sort(bySeverity) };
      const plan = planned(desk, admitted, body.routineId, body.inputs);
      const found: Finding[] = [...preflight(rig, mechanism, build, plan)];
      if (body.contact)
        found.push(
          ...desk.finish(
            'looking for what the arm touches',
            wayFindings(rig, mechanism, build, routineOf(admitted, body.routineId), plan),
          ),
        );
      return { findings: found.sort(bySeverity) };
    },
  }),
  defineCall({
    path: '/api/compute/map',
    summary: 'Where the tool can be: a slice of the reach, cell by cell.',
    body: mapBody,
    answer: mapAnswer,
    async run(body, desk) {
      const arm = await armOf(desk, body);
      const { mechanism } = arm;
      const tool = someTool(mechanism, body.tool);
      const { orientation } = body;
      const held = Object.fromEntries(
        Object.entries(body.held ?? {}).map(([id, value]) => [
          id,
          fromUnit(mechanism, slotOf(mechanism, id, `held.${id}`), value),
        ]),
      );
      const map = desk.finish(
        'mapping the reach',
        reachMapJob(mechanism, tool, {
          plane: body.plane,
          height: toM(body.heightMm),
          direction:
            orientation.kind === 'free'
              ? null
              : orientation.kind === 'tilt'
                ? { fromUp: toRad(orientation.fromUpDeg) }
                : vec3.unit(orientation.direction)!,
          samples: 200_000,
          seed: 1,
          cell: toM(body.cellMm),
          held,
        }),
      );
      const { grid } = map;
      const count = cellsOf(grid);
      return {
        cellMm: toMm(grid.cell),
        columns: grid.size[0],
        rows: count / grid.size[0],
        fromMm: [toMm(grid.first[0] * grid.cell), toMm(grid.first[1] * grid.cell)] as [number, number],
        postures: [...map.postures],
        margins: [...map.margin],
      };
    },
  }),
];
