/** What takes looking for: the same searches as the Reach, Motors and Routine pages make. */
import type { z } from 'zod';
import { commandMaps, speedOnlySlots } from '@cork-elbow/core/actuators';
import type { Admitted } from '@cork-elbow/core/admit';
import {
  homingMotion,
  planHoming,
  planPowerUp,
  powerUpMotion,
  restPose,
  type HomingPlan,
  type PowerUpPlan,
} from '@cork-elbow/core/bring-up';
import { contactScene, sweepJob } from '@cork-elbow/core/contact';
import {
  contractFindings,
  changesAnswer,
  changesBody,
  lengthsAnswer,
  lengthsBody,
  pointsAnswer,
  pointsBody,
  smoothingAnswer,
  smoothingBody,
  sweepAnswer,
  sweepBody,
} from '@cork-elbow/core/contract';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { fromSlots, inUnit, type Mechanism } from '@cork-elbow/core/mechanism';
import type { Motion } from '@cork-elbow/core/motion';
import { deltaMeasures, fixesJob, lengthsJob, pointsJob, touchReason, type TablePoint } from '@cork-elbow/core/reach';
import { compareSchoolsJob, rigStops, stoppedRoutines } from '@cork-elbow/core/routine';
import { toM, toMm } from '@cork-elbow/core/units';
import { planned, poseOf, rigOf, someTool, taskOf } from './asked';
import { BATCH_LIMIT } from '../limits';
import { defineCall, type Call } from './call';
import { refuse } from '../errors';

const { fault } = contractFindings;
/** Seed of the search for lengths: the same question has the same answer. */
const SEED = 1;

const tablePoint = (
  { name, positionMm, direction }: z.output<typeof pointsBody>['points'][number],
  i: number,
): TablePoint => ({
  name: name || `point ${i + 1}`,
  position: positionMm.map(toM) as unknown as Vec3,
  direction: direction && vec3.unit(direction),
});

/** What brings an arm in, joint by joint in its own unit, and what the supplies are asked for meanwhile. */
interface Brought {
  readonly motion: Motion;
  readonly moves: z.output<typeof sweepAnswer>['moves'];
  readonly rails: z.output<typeof sweepAnswer>['rails'];
}
const poweredUp = (mechanism: Mechanism, plan: PowerUpPlan): Brought => ({
  motion: powerUpMotion(plan),
  moves: plan.starts.flatMap(({ slots: moved, from, to, does, atS, seconds }) =>
    moved.map((s, k) => ({
      ...{ joint: mechanism.slotIds[s], does, fromS: atS, untilS: atS + seconds },
      ...{ from: inUnit(mechanism, s, from[k]), to: inUnit(mechanism, s, to[k]) },
    })),
  ),
  rails: plan.rails.map(({ railId, atOnceA, plannedA, givesA, unknown }) => ({
    ...{ id: railId, atOnceA, plannedA, givesA, unknown: [...unknown] },
  })),
});
const homed = (mechanism: Mechanism, plan: HomingPlan): Brought => ({
  motion: homingMotion(plan, mechanism),
  moves: plan.moves.map(({ joint, act, startS, seconds, from, to }) => ({
    ...{ joint, does: act, fromS: startS, untilS: startS + seconds, from, to },
  })),
  rails: [],
});

/** Ranges name what is there, and are the right way round. */
function checkRanges({ rig }: Admitted, ranges: z.output<typeof lengthsBody>['ranges']): void {
  const { mechanism } = rig;
  const known: Record<(typeof ranges)[number]['of'], readonly string[]> = {
    joint: mechanism.joints.map(({ id }) => id),
    tool: mechanism.tools.map(({ id }) => id),
    delta: mechanism.family === 'rotary-delta' ? deltaMeasures : [],
    base: ['x', 'y', 'z'],
  };
  const faults = ranges.flatMap(({ of, id, minMm, maxMm }, k) => {
    if (!known[of].includes(id))
      return [fault('id-unknown', `ranges[${k}].id`, `a ${of} of the rig`, `“${id}”`, { id, kind: of })];
    return minMm < maxMm
      ? []
      : [
          fault('range-reversed', `ranges[${k}]`, 'minMm below maxMm', `${minMm} to ${maxMm}`, {
            min: minMm,
            max: maxMm,
          }),
        ];
  });
  if (faults.length) refuse(faults);
}

export const searchCalls: readonly Call[] = [
  defineCall({
    path: '/api/compute/changes',
    summary: 'Why not, and what would help: the smallest changes of one thing each that bring a target into reach.',
    body: changesBody,
    answer: changesAnswer,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      const { rig, mechanism, build } = admitted;
      const { id: toolId } = someTool(mechanism, body.tool);
      const near = poseOf(admitted, body.near ?? {}, 'near');
      const question = { doc: rig.mechanism, mounting: build.mounting, around: rig, toolId, near };
      const changes = desk.finish(
        'looking for changes that would do',
        fixesJob(
          { ...question, task: taskOf(body.target) },
          {
            rig: (changed, arm) => rigStops(changed, arm, build),
            routines: (changed, arm) => stoppedRoutines(changed, arm, build),
          },
        ),
      );
      return { changes: changes.map((change) => structuredClone(change)) as never };
    },
  }),
  defineCall({
    path: '/api/compute/lengths',
    summary: 'The smallest arm, within ranges, that reaches all points.',
    body: lengthsBody,
    answer: lengthsAnswer,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      checkRanges(admitted, body.ranges);
      const { rig, mechanism, build } = admitted;
      const { id: toolId } = someTool(mechanism, body.tool);
      const { values, total, totalNow, spots, allReached } = desk.finish(
        'looking for lengths',
        lengthsJob({
          ...{ doc: rig.mechanism, mounting: build.mounting, toolId, margin: body.marginShare, seed: SEED },
          spots: body.points.map(tablePoint),
          ranges: body.ranges.map(({ of, id, minMm, maxMm }) => ({ of, id, min: minMm, max: maxMm })),
        }),
      );
      return {
        ...{ valuesMm: [...values], totalMm: total, totalNowMm: totalNow, allReached },
        points: spots.map(({ name, reached, margin }) => ({ name, reached, margin })),
      };
    },
  }),
  defineCall({
    path: '/api/compute/points',
    summary:
      'Many points one after the other: reached or not, in which posture, how fast the joints must go, and what is touched.',
    body: pointsBody,
    answer: pointsAnswer,
    bodyLimit: BATCH_LIMIT,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      const { rig, mechanism } = admitted;
      const results = desk.finish(
        'going through the points',
        pointsJob(
          mechanism,
          someTool(mechanism, body.tool),
          body.points.map(tablePoint),
          poseOf(admitted, body.start ?? {}, 'start'),
          toM(body.speedMmPerS),
          {
            scene: contactScene(rig, mechanism),
            speedOnly: speedOnlySlots(rig, mechanism),
          },
        ),
      );
      return {
        results: results.map(({ point, solution, changes, touch, speedShare, reason }) => ({
          ...{ name: point.name, reached: !!solution, joints: solution && fromSlots(mechanism, solution.q) },
          ...{ posture: solution?.posture ?? null, changesPosture: changes },
          touches: touch && touchReason(touch).message,
          speedShare: Number.isFinite(speedShare) ? speedShare : null,
          reason: reason?.message ?? null,
        })),
      };
    },
  }),
  defineCall({
    path: '/api/compute/sweep',
    summary:
      'What moves when, what is touched and what the supplies are asked for as the power comes, or as the arm homes.',
    body: sweepBody,
    answer: sweepAnswer,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      const { rig, mechanism, build } = admitted;
      const start = body.start ? poseOf(admitted, body.start, 'start') : restPose(rig, mechanism);
      const brought =
        body.motion === 'power-up'
          ? poweredUp(mechanism, planPowerUp(rig, mechanism, build, body.planned))
          : homed(mechanism, planHoming(rig, mechanism, start));
      const { motion, moves, rails } = brought;
      const touches = desk.finish('looking for what the arm touches', sweepJob(contactScene(rig, mechanism), motion));
      return {
        durationS: motion.durationS,
        moves: moves.sort((a, b) => a.fromS - b.fromS),
        rails,
        touches: touches.map(({ a, b, depth, at, fromS, untilS }) => ({
          ...{ first: a.name, second: b.name, depthMm: toMm(depth) },
          ...{ atMm: at.map(toMm) as [number, number, number], fromS, untilS },
        })),
      };
    },
  }),
  defineCall({
    path: '/api/compute/smoothing',
    summary: 'A routine as each way to smooth tells it to the motors, side by side.',
    body: smoothingBody,
    answer: smoothingAnswer,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      const { rig, mechanism, build } = admitted;
      const plan = planned(desk, admitted, body.routineId, body.inputs);
      const maps = commandMaps(rig, mechanism, build);
      const ways = desk.finish('comparing the ways to smooth', compareSchoolsJob(mechanism, maps, plan, rig.motion));
      return {
        ways: ways.map(({ offPath, ...way }) => ({ ...way, offPathMm: offPath === null ? null : toMm(offPath) })),
      };
    },
  }),
];
