/**
 * How calls are declared: routes with Zod schemas, which validate bodies, type handlers and make the OpenAPI description and its page.
 * What is wrong with a body is told by the same sentences as everywhere.
 */
import swagger from '@fastify/swagger';
import swaggerUi from '@fastify/swagger-ui';
import type { FastifyInstance } from 'fastify';
import {
  createJsonSchemaTransform,
  createJsonSchemaTransformObject,
  type ZodTypeProvider,
} from 'fastify-type-provider-zod';
import { z } from 'zod';
import * as contract from '@cork-elbow/core/contract';
import { errorBodySchema, faultsOf, findingSchema } from '@cork-elbow/core/findings';
import { catalogueEntrySchema, describeFields, factSchema, mechanismSchema, rigSchema } from '@cork-elbow/core/rig';
import { apiError, faulted } from './errors';

/** Where calls are added. */
export type Api = ReturnType<typeof typed>;
const typed = (app: FastifyInstance) => app.withTypeProvider<ZodTypeProvider>();

/** Schemas that have a name of their own in the description. */
const named: Record<string, [z.ZodType, string]> = {
  Rig: [
    rigSchema,
    'A rig document. Field by field in docs/formats.md; names end in their unit (xyzMm, rpyDeg, massG).',
  ],
  Mechanism: [mechanismSchema, 'An arm: joints with their links, tools, base. Part of a rig document.'],
  Motor: [catalogueEntrySchema, 'A kind of motor with its figures.'],
  Measurement: [factSchema, 'Something that was measured on a build.'],
  Finding: [findingSchema, 'Something to look at: what it is, how grave, where, and its figures.'],
  Fault: [errorBodySchema, 'What was wrong with a call, in sentences.'],
  Forward: [contract.forwardAnswer, 'Where links and tool are.'],
  Orientation: [contract.orientationSchema, 'How a tool is to be turned.'],
  Target: [contract.targetBody, 'Where a tool is to be, and how turned.'],
  Inverse: [contract.inverseAnswer, 'Joint values for a target, or why there are none.'],
  Files: [contract.filesAnswer, 'Files, and what was found of the routine they are of.'],
  Plan: [contract.planAnswer, 'A routine as one motion, sampled.'],
};
for (const [id, [schema, description]] of Object.entries(named))
  z.globalRegistry.add(schema, { description, ...z.globalRegistry.get(schema), id });

/** Schemas as they are written: with the input's optional fields, and examples beside them. */
const config = { unrepresentable: 'any' } as const;

export async function describeCalls(app: FastifyInstance, version: string): Promise<Api> {
  app.setValidatorCompiler<z.ZodType>(({ schema, httpPart }) => (input) => {
    const parsed = schema.safeParse(input);
    if (parsed.success) return { value: parsed.data };
    if (httpPart === 'body' && (typeof input !== 'object' || input === null))
      return { error: apiError('body-missing') };
    const faults = faultsOf(parsed.error, input, httpPart === 'body' ? undefined : httpPart);
    return { error: faulted(faults) };
  });
  // Answers are made by the calls' own types; the tests hold them to their schemas.
  app.setSerializerCompiler(() => (answer) => JSON.stringify(answer));
  await app.register(swagger, {
    openapi: {
      openapi: '3.1.0',
      info: {
        title: 'Cork Elbow',
        version,
        description:
          'Positions in mm, world frame: x forward, y left, z up. Joint values in ° of joints that turn, in mm of those that slide. Quaternions are [x, y, z, w]. Faults come as { code, message, faults: [{ path, expected, got, message }] }.',
      },
    },
    transform: createJsonSchemaTransform({ zodToJsonConfig: config }),
    transformObject: (document) => {
      const made = createJsonSchemaTransformObject({ zodToJsonConfig: config })(document);
      const { schemas = {} } = (made as { components?: { schemas?: Record<string, object> } }).components ?? {};
      // Of documents; calls have words of their own.
      for (const [name, schema] of Object.entries(schemas))
        if (/^(Rig|Mechanism|Motor|Measurement)/.test(name)) describeFields(schema);
      return made;
    },
  });
  await app.register(swaggerUi, {
    routePrefix: '/api/docs',
    uiConfig: { layout: 'BaseLayout', validatorUrl: null, docExpansion: 'list' },
    theme: { title: 'Cork Elbow: calls for scripts', css: [{ filename: 'paper.css', content: PAPER }] },
  });
  app.get('/api/openapi.json', { schema: { hide: true } }, () => app.swagger());
  return typed(app);
}

/** The page of the calls on the product's paper. */
const PAPER = `
  body { background: #e6d9c3; color: #1f2a2a; }
  .swagger-ui .wrapper { max-width: 62rem; background: #fbf7ee; box-shadow: 0 1px 4px #0003; }
  .swagger-ui .information-container.wrapper { padding-block: 1.4rem 0.4rem; }
  .swagger-ui .info { margin: 0; }
  .swagger-ui .info .title, .swagger-ui .opblock-tag, .swagger-ui .info p { color: #1f2a2a; font-family: sans-serif; }
  .swagger-ui .opblock { box-shadow: none; }
  .swagger-ui .btn.execute { background: #8f4c16; border-color: #8f4c16; }
`;

/** What a call may answer beside its success. */
export const faulty = (...statuses: (400 | 404 | 409 | 413 | 422 | 429 | 503 | 507)[]): Record<number, z.ZodType> =>
  Object.fromEntries(statuses.map((status) => [status, errorBodySchema]));

/** Of calls that write: only so many in a minute. */
export const writes = { config: { rateLimit: {} } } as const;
