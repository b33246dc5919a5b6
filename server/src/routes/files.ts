/** What leaves a rig as a file and what comes into it as text: the catalogues of the core, a call each. */
import { bySeverity, type Finding } from '@cork-elbow/core/findings';
import { commandMaps } from '@cork-elbow/core/actuators';
import type { Admitted } from '@cork-elbow/core/admit';
import {
  commandsBody,
  examples,
  exportBody,
  exportsAnswer,
  filesAnswer,
  importAnswer,
  importBody,
  importsAnswer,
  type FilesAnswer,
} from '@cork-elbow/core/contract';
import {
  defaultsOf,
  exportList,
  exportOf,
  optionsSchema,
  type Export,
  type ExportFile,
  type Source,
} from '@cork-elbow/core/exports';
import { importList } from '@cork-elbow/core/imports';
import type { Rig } from '@cork-elbow/core/rig';
import { planCommands, preflight, type Plan } from '@cork-elbow/core/routine';
import { DOCUMENT_LIMIT, faulty, type Api } from '../api';
import { planned, poseOf, rigOf, routineOf } from '../asked';
import type { Store } from '../db/open';
import { ApiError } from '../errors';
import { admitRig } from '../rig-door';

const tags = ['files'];

const commands = exportOf('commands')!;

export function fileRoutes(api: Api, store: Store): void {
  api.get(
    '/api/export',
    { schema: { tags, summary: 'What can be written of a rig, and its options.', response: { 200: exportsAnswer } } },
    () =>
      exportList.map(({ id, name, says, takes, options }) => ({
        ...{ id, name, says, takes: [...takes], options: { ...optionsSchema(options) } },
      })),
  );
  for (const made of exportList)
    api.post(
      `/api/export/${made.id}`,
      {
        bodyLimit: DOCUMENT_LIMIT,
        schema: {
          tags,
          summary: `${made.says} With \`Accept\` its own type, the first file’s text alone.`,
          body: exportBody
            .extend({ options: made.options.prefault({}) })
            .meta(examples({ [made.name]: { rigId: 'tile-dipper', options: defaultsOf(made.options) } })),
          response: { 200: filesAnswer, ...faulty(400, 404, 413, 422) },
        },
      },
      async ({ body, headers }, reply) => {
        const admitted = await rigOf(store, body);
        const { rig } = admitted;
        const routineId = made.takes.includes('routine') ? (body.routineId ?? rig.routines[0]?.id) : body.routineId;
        const plan = routineId === undefined ? null : planned(admitted, routineId, body.inputs);
        const q = poseOf(admitted, body.joints ?? {}, 'joints');
        const source = sourceOf(admitted, body.rigId, q, plan);
        const answer = written(made, source, body.options, plan);
        const file = alone(answer, headers.accept);
        return file ? reply.type(`${file.mediaType}; charset=utf-8`).send(file.text as never) : answer;
      },
    );

  api.post(
    '/api/compute/commands',
    {
      bodyLimit: DOCUMENT_LIMIT,
      schema: {
        tags: ['compute'],
        summary:
          'What the motors are sent over a routine: the table of commands as a file. With `Accept: text/csv` the text alone.',
        body: commandsBody
          .extend({ options: commands.options.omit({ format: true }).prefault({}) })
          .meta(commandsBody.meta()!),
        response: { 200: filesAnswer, ...faulty(400, 404, 413, 422) },
      },
    },
    async ({ body, headers }, reply) => {
      const admitted = await rigOf(store, body);
      const plan = planned(admitted, body.routineId, body.inputs);
      const source = sourceOf(admitted, body.rigId, admitted.mechanism.home, plan);
      const answer = written(commands, source, { ...body.options, format: body.format }, plan);
      const file = alone(answer, headers.accept);
      return file ? reply.type(`${file.mediaType}; charset=utf-8`).send(file.text as never) : answer;
    },
  );

  api.get(
    '/api/import',
    { schema: { tags, summary: 'What a rig can take in as text.', response: { 200: importsAnswer } } },
    () =>
      importList.map(({ id, name, says, endings, options }) => ({
        ...{ id, name, says, endings: [...endings], options: { ...optionsSchema(options) } },
      })),
  );
  for (const made of importList)
    api.post(
      `/api/import/${made.id}`,
      {
        bodyLimit: DOCUMENT_LIMIT,
        schema: {
          tags,
          summary: `${made.says} Nothing is saved.`,
          body: importBody
            .extend({ options: made.options.prefault({}) })
            .meta(examples({ [made.name]: { rigId: 'tile-dipper', text: made.example } })),
          response: { 200: importAnswer, ...faulty(400, 404, 413) },
        },
      },
      async ({ body }) => {
        const { rig } = await rigOf(store, body);
        const { problems, summary, edit } = made.read(body.text, rig, body.options);
        if (!edit) return { problems: [...problems], summary };
        const draft = structuredClone(rig) as Rig;
        edit(draft);
        return { problems: [], summary, rig: admitRig(draft).rig };
      },
    );
}

function sourceOf(
  { rig, mechanism, build }: Admitted,
  rigId: string | undefined,
  q: Float64Array,
  plan: Plan | null,
): Source {
  const routine = plan && routineOf({ rig }, plan.routineId);
  const maps = commandMaps(rig, mechanism, build);
  return {
    ...{ rig, mechanism, build, q, rigId: rigId ?? null },
    planned: plan && routine ? { routine, plan, motion: planCommands(rig, mechanism, maps, plan) } : null,
  };
}

/** The files, and what was found of a routine they are of; what is missing for them is an error. */
function written(made: Export, source: Source, options: unknown, plan: Plan | null): FilesAnswer {
  const files = made.write(source, options).map((file) => ({ ...file }));
  const [lack] = files.length ? [] : made.lacks(source, options);
  if (lack) throw new ApiError(lack.code, lack.message);
  const { rig, mechanism, build } = source;
  const findings: Finding[] = plan ? [...preflight(rig, mechanism, build, plan)].sort(bySeverity) : [];
  return { files, findings };
}

/** The first file, where just its type is asked for. */
function alone({ files: [file] }: FilesAnswer, accept: string | undefined): ExportFile | null {
  return file && file.mediaType !== 'application/json' && accept?.startsWith(file.mediaType) ? file : null;
}
