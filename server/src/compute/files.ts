/** What leaves a rig as a file and what comes into it as text: the catalogues of the core, a call each. */
import { bySeverity, type Finding } from '@cork-elbow/core/findings';
import { commandMaps } from '@cork-elbow/core/actuators';
import type { Admitted } from '@cork-elbow/core/admit';
import {
  commandsBody,
  examples,
  exportBody,
  filesAnswer,
  importAnswer,
  importBody,
  type FilesAnswer,
} from '@cork-elbow/core/contract';
import { defaultsOf, exportList, exportOf, type Export, type Source } from '@cork-elbow/core/exports';
import { importList, type Import } from '@cork-elbow/core/imports';
import type { Rig } from '@cork-elbow/core/rig';
import { planCommands, preflight, type Plan } from '@cork-elbow/core/routine';
import { planned, poseOf, rigOf, routineOf } from './asked';
import { defineCall, TextAnswer, type Call, type Desk } from './call';
import { ApiError } from '../errors';
import { admitRig } from '../rig-door';

const tag = 'files';
const commands = exportOf('commands')!;
const firmware = exportOf('firmware')!;

const exported = (made: Export): Call =>
  defineCall({
    path: `/api/export/${made.id}`,
    tag,
    summary: `${made.says} With \`Accept\` its own type, the first file’s text alone.`,
    body: exportBody
      .extend({ options: made.options.prefault({}) })
      .meta(examples({ [made.name]: { rigId: 'tile-dipper', options: defaultsOf(made.options) } })),
    answer: filesAnswer,
    async run(body, desk) {
      const admitted = await rigOf(desk, body);
      const { rig } = admitted;
      const routineId = made.takes.includes('routine') ? (body.routineId ?? rig.routines[0]?.id) : body.routineId;
      const plan = routineId === undefined ? null : planned(desk, admitted, routineId, body.inputs);
      const q = poseOf(admitted, body.joints ?? {}, 'joints');
      return written(desk, made, sourceOf(admitted, body.rigId, q, plan), body.options, plan);
    },
  });

const motorCommands = defineCall({
  path: '/api/compute/commands',
  summary:
    'What the motors are sent over a routine: the table of commands as a file, or the program of a board. With `Accept: text/csv` the text alone.',
  body: commandsBody
    .extend({
      options: commands.options.omit({ format: true }).extend(firmware.options.shape).partial().prefault({}),
    })
    .meta(commandsBody.meta()!),
  answer: filesAnswer,
  async run({ format, options, ...body }, desk) {
    const admitted = await rigOf(desk, body);
    const made = format === 'firmware' ? firmware : commands;
    const plan = body.routineId === undefined ? null : planned(desk, admitted, body.routineId, body.inputs);
    const source = sourceOf(admitted, body.rigId, admitted.mechanism.home, plan);
    // Each takes those that are its own.
    const own = Object.fromEntries(Object.entries(options).filter(([key]) => key in made.options.shape));
    const kind = format === 'json' ? 'json' : 'csv';
    return written(desk, made, source, made === commands ? { ...own, format: kind } : own, plan);
  },
});

const imported = (made: Import): Call =>
  defineCall({
    path: `/api/import/${made.id}`,
    tag,
    summary: `${made.says} Nothing is saved.`,
    body: importBody
      .extend({ options: made.options.prefault({}) })
      .meta(examples({ [made.name]: { rigId: 'tile-dipper', text: made.example } })),
    answer: importAnswer,
    async run(body, desk) {
      const { rig } = await rigOf(desk, body);
      const { problems, summary, edit } = made.read(body.text, rig, body.options);
      if (!edit) return { problems: [...problems], summary };
      const draft = structuredClone(rig) as Rig;
      edit(draft);
      return { problems: [], summary, rig: admitRig(draft).rig };
    },
  });

export const fileCalls: readonly Call[] = [...exportList.map(exported), motorCommands, ...importList.map(imported)];

function sourceOf(
  { rig, mechanism, build, revision }: Admitted & { readonly revision?: number },
  rigId: string | undefined,
  q: Float64Array,
  plan: Plan | null,
): Source {
  const routine = plan && routineOf({ rig }, plan.routineId);
  const maps = commandMaps(rig, mechanism, build);
  return {
    ...{ rig, mechanism, build, q, rigId: rigId ?? null, revision },
    planned: plan && routine ? { routine, plan, motion: planCommands(rig, mechanism, maps, plan) } : null,
  };
}

/** The files, and what was found of a routine they are of; the first one's text where just its type is wished for. */
function written(
  desk: Desk,
  made: Export,
  source: Source,
  options: unknown,
  plan: Plan | null,
): FilesAnswer | TextAnswer {
  desk.doing(`writing ${made.name}`);
  const files = made.write(source, options).map((file) => ({ ...file }));
  const [lack] = files.length ? [] : made.lacks(source, options);
  if (lack) throw new ApiError(lack.code, lack.message);
  const [first] = files;
  if (first && first.mediaType !== 'application/json' && desk.accept?.startsWith(first.mediaType))
    return new TextAnswer(`${first.mediaType}; charset=utf-8`, first.text);
  const { rig, mechanism, build } = source;
  const findings: Finding[] = plan ? [...preflight(rig, mechanism, build, plan)].sort(bySeverity) : [];
  return { files, findings };
}
