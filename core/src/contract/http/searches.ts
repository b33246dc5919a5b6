/** What takes looking for: changes that bring a target into reach, the smallest arm, many points, contact, ways to smooth. */
import { z } from 'zod';
import { ofRig, ofRoutine, targetBody, tool } from './compute';
import { examples, finite, jointValues, xyzMm } from './shapes';

// ── Why not ─────────────────────────────────────────────────────────────────────────────────────────────────────────
export const changesBody = z
  .strictObject({
    ...ofRig,
    tool,
    target: targetBody,
    near: jointValues.optional().describe('where the arm stands; joints left out stand at home'),
  })
  .meta(
    examples({
      'a place too far away': {
        rigId: 'tile-dipper',
        target: { positionMm: [330, 0, 120], orientation: { kind: 'direction', direction: [0, 0, -1] } },
      },
    }),
  );
const along = z.tuple([finite, finite, finite]).describe('a direction of length 1, world frame');
const by = z.number().describe('by how much: mm, or ° of a limit of a joint that turns and of a tilt');
const to = z.number().describe('what it comes to, in the same unit');
export const changeAnswer = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('link'),
    of: z.enum(['joint', 'tool']).describe('what the link ends at'),
    id: z.string().describe('of that joint or tool'),
    name: z.string().describe('of it'),
    by,
    to,
  }),
  z.strictObject({
    kind: z.literal('limit'),
    id: z.string().describe('of the joint'),
    name: z.string().describe('of it'),
    side: z.enum(['min', 'max']).describe('which limit'),
    by,
    to,
    unit: z.enum(['°', 'mm']).describe('of both'),
  }),
  z.strictObject({
    kind: z.literal('base'),
    along,
    by,
    nearer: z.boolean().describe('whether it comes nearer to the target'),
  }),
  z.strictObject({ kind: z.literal('delta'), measure: z.string().describe('of the delta'), by, to }),
  z.strictObject({ kind: z.literal('tilt'), by, direction: along }),
  z.strictObject({ kind: z.literal('target'), by, along }),
]);
export const changesAnswer = z.strictObject({
  changes: z
    .array(changeAnswer)
    .describe('of one thing each, the smallest first; none stops what goes now. Empty where it is in reach'),
});

// ── Lengths ─────────────────────────────────────────────────────────────────────────────────────────────────────────
const point = z.strictObject({
  name: z.string().max(80).default('').describe('to know it again by'),
  positionMm: xyzMm,
  direction: z
    .tuple([finite, finite, finite])
    .refine((d) => Math.hypot(...d) > 1e-9, 'a direction with a length')
    .nullable()
    .default(null)
    .describe('where the tool’s +Z points, any length; null: any way'),
});
export const lengthsBody = z
  .strictObject({
    ...ofRig,
    tool,
    points: z.array(point).min(1).max(200).describe('all to be reached'),
    ranges: z
      .array(
        z.strictObject({
          of: z
            .enum(['joint', 'tool', 'delta', 'base'])
            .describe('the length from the parent to a joint or tool, a delta’s measure, or the base along an axis'),
          id: z.string().describe('of the joint or tool; the measure’s name; x, y or z'),
          minMm: finite.describe('mm'),
          maxMm: finite.describe('mm'),
        }),
      )
      .min(1)
      .max(12)
      .describe('what may change, and how far'),
    marginShare: z
      .number()
      .min(0)
      .max(0.9)
      .default(0.05)
      .describe('least way to every limit, as a share of half its range'),
  })
  .meta(
    examples({
      'two lengths': {
        rigId: 'tile-dipper',
        points: [{ positionMm: [180, 60, 130] }, { positionMm: [120, -80, 60] }],
        ranges: [
          { of: 'joint', id: 'elbow', minMm: 80, maxMm: 180 },
          { of: 'joint', id: 'wrist', minMm: 80, maxMm: 180 },
        ],
      },
    }),
  );
export const lengthsAnswer = z.strictObject({
  valuesMm: z.array(z.number()).describe('whole mm, in the order of the ranges'),
  totalMm: z.number().describe('sum of the lengths, base moves left out'),
  totalNowMm: z.number().describe('the same of the rig as it is'),
  allReached: z.boolean().describe('whether every point is reached with its margin'),
  points: z.array(
    z.strictObject({
      name: z.string().describe('as given'),
      reached: z.boolean().describe('by the arm with these lengths'),
      margin: z.number().describe('least way to a limit there, as a share of half its range'),
    }),
  ),
});

// ── Points ──────────────────────────────────────────────────────────────────────────────────────────────────────────
export const pointsBody = z
  .strictObject({
    ...ofRig,
    tool,
    points: z.array(point).min(1).max(20_000).describe('in the order in which the tool passes them'),
    start: jointValues.optional().describe('where the arm is before; joints left out stand at home'),
    speedMmPerS: z.number().min(0.1).max(10_000).default(50).describe('of the tool, mm/s'),
  })
  .meta(
    examples({
      'along a line': {
        rigId: 'tile-dipper',
        points: [{ positionMm: [170, 0, 120] }, { positionMm: [170, 10, 120] }, { positionMm: [400, 0, 120] }],
      },
    }),
  );
export const pointsAnswer = z.strictObject({
  results: z
    .array(
      z.strictObject({
        name: z.string().describe('as given'),
        reached: z.boolean().describe('whether any posture gets there'),
        joints: jointValues.nullable().describe('null where it is not reached'),
        posture: z.string().nullable().describe('name of the posture'),
        changesPosture: z.boolean().describe('whether it is another than at the point before'),
        touches: z.string().nullable().describe('what the arm touches there; null where it stands free'),
        speedShare: z.number().nullable().describe('of the tightest joint’s top speed; over 1 it cannot keep up'),
        reason: z.string().nullable().describe('why not, one sentence'),
      }),
    )
    .describe('in the order of the points'),
});

// ── Contact and smoothing ───────────────────────────────────────────────────────────────────────────────────────────
export const sweepBody = z
  .strictObject({
    ...ofRig,
    motion: z.enum(['power-up', 'homing']).describe('what brings the arm in'),
    planned: z.boolean().default(true).describe('power-up by the plan; else each motor goes to its neutral at once'),
    start: jointValues.optional().describe('of homing: where the arm stands; at rest where it is left out'),
  })
  .meta(examples({ 'as the power comes': { rigId: 'tile-dipper', motion: 'power-up' } }));
export const sweepAnswer = z.strictObject({
  durationS: z.number().describe('s that it takes'),
  moves: z
    .array(
      z.strictObject({
        joint: z.string().describe('id of the joint'),
        does: z
          .string()
          .describe('what it does: seek, back off, wait pose …; as power comes: neutral, limp, hold, homes'),
        fromS: z.number().describe('s, when it begins'),
        untilS: z.number().describe('s, when it ends'),
        from: z.number().describe('value of the joint, ° or mm'),
        to: z.number().describe('value of the joint, ° or mm'),
      }),
    )
    .describe('in the order of their beginnings'),
  rails: z
    .array(
      z.strictObject({
        id: z.string().describe('of the supply'),
        atOnceA: z.number().describe('highest current with all motors at once, A'),
        plannedA: z.number().describe('highest current by the plan, A'),
        givesA: z.number().describe('what it gives for long, A; 0: not known'),
        unknown: z.array(z.string()).describe('names of motors whose currents nobody has given: in none of the sums'),
      }),
    )
    .describe('of power-up: what the supplies are asked for'),
  touches: z.array(
    z.strictObject({
      first: z.string().describe('name of the one'),
      second: z.string().describe('name of the other'),
      depthMm: z.number().describe('mm, at its deepest'),
      atMm: xyzMm,
      fromS: z.number().describe('s, when it begins'),
      untilS: z.number().describe('s, when it ends'),
    }),
  ),
});
export const smoothingBody = z
  .strictObject(ofRoutine)
  .meta(examples({ 'a routine': { rigId: 'tile-dipper', routineId: 'dip' } }));
const share = (of: string) => z.number().describe(`largest share of the joints’ own ${of}`);
export const smoothingAnswer = z.strictObject({
  ways: z
    .array(
      z.strictObject({
        school: z.string().describe('planned, low-pass or jump'),
        arrivesS: z.number().describe('s, when the last target is all but reached'),
        speed: share('top speed'),
        accel: share('acceleration'),
        jerk: share('jerk'),
        offPathMm: z.number().nullable().describe('mm off the planned path at most; null without a tool'),
        left: z.number().describe('share of the largest step that is still to go at the plan’s end'),
      }),
    )
    .describe('the same routine, as each way tells it to the motors'),
});
