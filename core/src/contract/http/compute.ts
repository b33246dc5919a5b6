/**
 * What scripts have computed. Every call says which arm by `mechanism` alone, by a whole `rig`, or by the `rigId` of one on the shelf;
 * many poses or targets go in one call, and come back in the same order.
 */
import { z } from 'zod';
import { findingSchema } from '../../findings';
import { mechanismSchema, rigSchema } from '../../rig/schema';
import { simulatedInputs } from '../inputs';
import { examples, finite, jointValues, quaternion, whole, xyzMm } from './shapes';

/** Most poses or targets in one call. */
export const MOST_AT_ONCE = 20_000;

export const ofRig = {
  rig: rigSchema.optional().describe('the document; give this or `rigId`'),
  rigId: z.string().optional().describe('id of a rig on the shelf'),
  buildId: z
    .string()
    .optional()
    .describe('the build whose measurements and place count; the first one where it is left out'),
};
const ofArm = {
  mechanism: mechanismSchema.optional().describe('the arm by itself; give one of `mechanism`, `rig` and `rigId`'),
  ...ofRig,
};
export const tool = z.string().optional().describe('id of the tool; the mounted one where it is left out');

// ── Forward ─────────────────────────────────────────────────────────────────────────────────────────────────────────
export const forwardBody = z
  .strictObject({
    ...ofArm,
    joints: jointValues.default({}),
    tool,
    poses: z
      .array(jointValues)
      .min(1)
      .max(MOST_AT_ONCE)
      .optional()
      .describe('many poses instead of one: the answer is `{ answers: […] }`, streamed'),
  })
  .meta(
    examples({
      'one pose': { rigId: 'tile-dipper', joints: { turn: 10, shoulder: 30, elbow: 80, wrist: 60 } },
      'many poses': { rigId: 'tile-dipper', poses: [{ turn: 0 }, { turn: 5 }] },
    }),
  );
/** Of many answers: where the time of one call was over before the last. */
const stopped = z
  .strictObject({ code: z.string().describe('see docs/messages.md'), message: z.string().describe('one sentence') })
  .optional()
  .describe('there where the time that one call may compute was over: what is missing is asked for in another call');
const frameAnswer = z.strictObject({ positionMm: xyzMm, quaternion });
const posed = z.strictObject({
  positionMm: xyzMm.nullable().describe('of the tool point; null without a tool'),
  quaternion: quaternion.nullable().describe('of the tool: [x, y, z, w]'),
  rpyDeg: z
    .tuple([finite, finite, finite])
    .nullable()
    .describe('of the tool: roll, pitch, yaw in °, about the fixed axes X, Y, Z in this order'),
  joints: z.record(z.string(), z.number()).describe('every joint, those that follow others too: ° or mm'),
  links: z.record(z.string(), frameAnswer).describe('by id of the joint: the frame of its link'),
});
export const forwardAnswer = z.union([posed, z.strictObject({ answers: z.array(posed), stopped })]);

// ── Loads ───────────────────────────────────────────────────────────────────────────────────────────────────────────
export const loadsBody = z
  .strictObject({
    ...ofArm,
    states: z
      .array(
        z.strictObject({
          joints: jointValues,
          speeds: jointValues.default({}).describe('°/s or mm/s; joints left out stand'),
          accels: jointValues.default({}).describe('°/s² or mm/s²; joints left out keep their speed'),
        }),
      )
      .min(1)
      .max(MOST_AT_ONCE)
      .describe('how the arm stands or moves; one answer each, in the same order'),
    payload: z
      .strictObject({
        massG: z.number().min(0).max(1e6).describe('g'),
        comMm: z
          .tuple([finite, finite, finite])
          .default([0, 0, 0])
          .describe('its centre of mass, mm, in the frame of the tool'),
        tool,
      })
      .optional()
      .describe('what a tool holds'),
  })
  .meta(
    examples({
      'at rest and as it sets off': {
        rigId: 'tile-dipper',
        states: [{ joints: { shoulder: 90 } }, { joints: { shoulder: 90 }, accels: { shoulder: -400 } }],
        payload: { massG: 40 },
      },
    }),
  );
const loadsState = z.strictObject({
  torquesNm: z
    .record(z.string(), z.number())
    .describe('by joint, what its motor has to give, weight included: N·m; N of joints that slide'),
  tip: z
    .strictObject({
      marginMm: z
        .number()
        .nullable()
        .describe('how far the ground presses inside of what the feet span, mm; negative: it tips; null: see `why`'),
      why: z
        .enum(['no-feet', 'pulled-off'])
        .optional()
        .describe('no three feet that span an area, or a base that is pulled off them'),
    })
    .describe('whether the base stays on its feet'),
});
export const loadsAnswer = z.strictObject({ states: z.array(loadsState) });

// ── Inverse ─────────────────────────────────────────────────────────────────────────────────────────────────────────
/** How a tool may be turned where its heading is left open. */
const turned = [
  z.strictObject({ kind: z.literal('free') }),
  z.strictObject({
    kind: z.literal('direction'),
    direction: z
      .tuple([finite, finite, finite])
      .refine((d) => Math.hypot(...d) > 1e-9, 'a direction with a length')
      .describe('where the tool’s +Z points, world frame; any length'),
  }),
  z.strictObject({
    kind: z.literal('tilt'),
    fromUpDeg: z.number().min(0).max(180).describe('° between the tool’s +Z and straight up, whatever its heading'),
  }),
] as const;
export const orientationSchema = z
  .discriminatedUnion('kind', [
    ...turned,
    z.strictObject({
      kind: z.literal('full'),
      quaternion: quaternion.refine((q) => Math.hypot(...q) > 1e-9, 'a quaternion with a length'),
    }),
  ])
  .describe('how the tool is to be turned: free, a direction of its +Z, an angle from up, or wholly');
export const targetBody = z
  .strictObject({
    positionMm: xyzMm,
    orientation: orientationSchema.default({ kind: 'free' }),
  })
  .describe('where the tool is to be');
const near = jointValues
  .optional()
  .describe(
    'where the arm is: answers nearest to it come first; joints left out are taken at 0 or their nearest limit',
  );
export const inverseBody = z
  .strictObject({
    ...ofArm,
    tool,
    target: targetBody.optional().describe('of one tool'),
    targets: z
      .array(z.strictObject({ tool: z.string().describe('id of the tool'), target: targetBody }))
      .min(1)
      .max(16)
      .optional()
      .describe('of several tools at once'),
    batch: z
      .array(z.strictObject({ target: targetBody, near }))
      .min(1)
      .max(MOST_AT_ONCE)
      .optional()
      .describe('many targets of one tool, each by itself: the answer is `{ answers: […] }`, streamed'),
    near,
    held: z.array(z.string()).optional().describe('ids of joints that keep the value of `near`'),
    best: z.boolean().default(false).describe('only the answer nearest to `near` instead of every posture'),
  })
  .meta(
    examples({
      'one target, at an angle from up': {
        rigId: 'tile-dipper',
        target: { positionMm: [170, 60, 130], orientation: { kind: 'tilt', fromUpDeg: 150 } },
        near: { turn: 0, shoulder: 20, elbow: 90, wrist: 60 },
      },
      'many targets': {
        rigId: 'tile-dipper',
        best: true,
        batch: [{ target: { positionMm: [170, 60, 130] } }, { target: { positionMm: [170, 70, 130] } }],
      },
    }),
  );
const solutionAnswer = z.strictObject({
  joints: z.record(z.string(), z.number()).describe('by id of the joint: ° or mm'),
  posture: z.string().describe('name of the posture, such as elbow up'),
  errorMm: z.number().describe('mm that the tool point is off'),
  errorDeg: z.number().describe('° that the tool is turned off'),
  limitMargin: z.number().describe('least way to a limit over the half of that joint’s range, 0 to 1'),
  awayS: z.number().describe('s from `near` with every joint at full speed'),
  manipulability: z.number().describe('product of the singular values of the tool’s Jacobian, per m of reach'),
  evenness: z.number().describe('smallest over largest singular value, 0 to 1'),
});
const solved = z.strictObject({
  reachable: z.boolean().describe('whether there is any solution'),
  solutions: z.array(solutionAnswer).describe('one a posture, nearest to `near` first'),
  reasons: z
    .array(
      z.strictObject({
        code: z.string().describe('see docs/messages.md'),
        message: z.string().describe('one sentence'),
        joint: z.string().optional().describe('id of the joint in the way'),
        byDeg: z.number().optional().describe('by how many °'),
        byMm: z.number().optional().describe('by how many mm'),
      }),
    )
    .describe('why not, where it is not reachable'),
  closest: solutionAnswer.optional().describe('the nearest pose, where it is not reachable'),
});
export const inverseAnswer = z.union([solved, z.strictObject({ answers: z.array(solved), stopped })]);

// ── Routines ────────────────────────────────────────────────────────────────────────────────────────────────────────
export const routineInputs = simulatedInputs
  .optional()
  .describe('by id of the input: its state, or `{ from, changesS }` with the times (s) at which it changes over');
export const ofRoutine = {
  ...ofRig,
  routineId: z.string().describe('id of the routine'),
  inputs: routineInputs,
};
export const planBody = z
  .strictObject({
    ...ofRoutine,
    sampleMs: finite.describe('ms between two samples, 1 to 1000'),
    start: jointValues.optional().describe('where the arm is before; at home where it is left out'),
  })
  .meta(examples({ 'a routine': { rigId: 'tile-dipper', routineId: 'dip', sampleMs: 100 } }));
const columns = (unit: string) => z.record(z.string(), z.array(z.number())).describe(`by id of the joint: ${unit}`);
export const planAnswer = z.strictObject({
  durationS: z.number().describe('s'),
  findings: z.array(findingSchema).describe('what was found while planning'),
  samples: z.strictObject({
    timeS: z.array(z.number()).describe('s, the exact end last'),
    joints: columns('° or mm'),
    speeds: columns('°/s or mm/s'),
    accels: columns('°/s² or mm/s²'),
  }),
});

/** With the options of the export of that name beside it, which the server adds. */
export const commandsBody = z
  .strictObject({
    ...ofRoutine,
    routineId: z.string().optional().describe('id of the routine; a bridge needs none'),
    format: z
      .enum(['table', 'csv', 'json', 'firmware'])
      .default('table')
      .describe('a table (as CSV, or as what is said), or the program of a board'),
  })
  .meta(
    examples({
      'a table as CSV': { rigId: 'tile-dipper', routineId: 'dip', format: 'csv', options: { rateHz: 20 } },
      'the program of a board': { rigId: 'tile-dipper', format: 'firmware', options: { kind: 'bridge' } },
    }),
  );

// ── Motors ──────────────────────────────────────────────────────────────────────────────────────────────────────────
export const motorsValuesBody = z
  .strictObject({
    ...ofRig,
    poses: z.array(jointValues).min(1).max(MOST_AT_ONCE).describe('joints left out stand at home'),
  })
  .meta(examples({ 'two poses': { rigId: 'tile-dipper', poses: [{ elbow: 90 }, { elbow: 100 }] } }));
export const motorsValuesAnswer = z.strictObject({
  units: z.record(z.string(), z.string()).describe('by id of the drive: µs, counts or steps'),
  pins: z
    .record(
      z.string(),
      z.strictObject({ board: z.string().describe('its name'), pin: z.string().describe('its label') }),
    )
    .describe('by id of the drive: where it is wired'),
  answers: z
    .array(z.record(z.string(), whole))
    .describe('a pose each, by id of the drive; a drive that cannot go there is left out'),
});

// ── Findings ────────────────────────────────────────────────────────────────────────────────────────────────────────
export const findingsBody = z
  .strictObject({
    ...ofRig,
    routineId: z.string().optional().describe('also what stands against this routine'),
    inputs: simulatedInputs.optional().describe('as for a plan'),
    contact: z
      .boolean()
      .default(false)
      .describe('also what the arm touches along the routine and what is too heavy for it, which takes longer'),
  })
  .meta(
    examples({
      'a rig': { rigId: 'tile-dipper' },
      'a routine, with what it touches': { rigId: 'tile-dipper', routineId: 'dip', contact: true },
    }),
  );
export const findingsAnswer = z.strictObject({
  findings: z.array(findingSchema).describe('what must be mended first'),
});

// ── Reach ───────────────────────────────────────────────────────────────────────────────────────────────────────────
export const mapBody = z
  .strictObject({
    ...ofArm,
    tool,
    plane: z.enum(['side', 'plan']).describe('an upright slice that faces forward, or a level one'),
    heightMm: finite.default(0).describe('mm above the ground, of a level slice'),
    cellMm: z.number().min(2).max(200).default(20).describe('edge of a cell, mm'),
    orientation: z
      .discriminatedUnion('kind', turned)
      .default({ kind: 'free' })
      .describe('how the tool has to be turned in every cell'),
    held: jointValues.optional().describe('joints that stay, at these values'),
  })
  .meta(examples({ 'a level slice': { rigId: 'tile-dipper', plane: 'plan', heightMm: 60, cellMm: 40 } }));
export const mapAnswer = z.strictObject({
  cellMm: z.number().describe('edge of a cell, mm'),
  columns: whole.describe('cells from left to right of a row'),
  rows: whole.describe('rows'),
  fromMm: z
    .tuple([finite, finite])
    .describe('corner of the first cell, mm: forward and up of an upright slice, forward and left of a level one'),
  postures: z.array(whole).describe('row by row: how many postures reach the middle of the cell; 0: out of reach'),
  margins: z.array(z.number()).describe('row by row: the best margin to a limit, 0 to 1'),
});

export type Orientation = z.infer<typeof orientationSchema>;
export type ForwardAnswer = z.infer<typeof posed>;
export type InverseAnswer = z.infer<typeof solved>;
export type PlanAnswer = z.infer<typeof planAnswer>;
