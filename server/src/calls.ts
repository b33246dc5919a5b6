/** One way to declare an HTTP call: its schemas validate, and are what the OpenAPI page shows. */
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { z } from 'zod';
import { fault, faultsOf } from '@cork-elbow/core/findings';
import { MAX_RIG_BYTES } from '@cork-elbow/core/rig';
import { refuse } from './errors';

export interface Call<B, A> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** With :name parameters. */
  readonly url: string;
  readonly summary: string;
  readonly body?: z.ZodType<B>;
  readonly answer: z.ZodType<A> | null;
  /** The handler checks the body itself (rig documents, which may be of an older version). */
  readonly raw?: boolean;
  readonly handler: (body: B, params: Record<string, string>, reply: FastifyReply) => Promise<A> | A;
}

interface Listed {
  method: string;
  url: string;
  summary: string;
  body?: z.ZodType;
  answer: z.ZodType | null;
}

const BODY_LIMIT = MAX_RIG_BYTES + 64 * 1024;

export class Calls {
  private readonly list: Listed[] = [];
  constructor(private readonly app: FastifyInstance) {}

  add<B, A>(call: Call<B, A>): void {
    const { method, url, body, handler, raw } = call;
    this.list.push(call as Listed);
    this.app.route({
      method,
      url,
      bodyLimit: body ? BODY_LIMIT : 1024,
      handler: async (request: FastifyRequest, reply: FastifyReply) => {
        const params = request.params as Record<string, string>;
        if (!body || raw) {
          if (body && (typeof request.body !== 'object' || request.body === null))
            refuse([fault('shape', 'the body', 'an object', 'something else', { problem: 'must be an object' })]);
          return handler(request.body as B, params, reply);
        }
        const parsed = body.safeParse(request.body);
        if (!parsed.success) return refuse(faultsOf(parsed.error, request.body));
        return handler(parsed.data, params, reply);
      },
    });
  }

  openApi(version: string): object {
    const json = (schema: z.ZodType): object => z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' });
    const paths: Record<string, Record<string, object>> = {};
    for (const { method, url, summary, body, answer } of this.list) {
      const path = url.replace(/:(\w+)/g, '{$1}');
      const parameters = [...url.matchAll(/:(\w+)/g)].map(([, name]) => ({
        name,
        in: 'path',
        required: true,
        schema: { type: 'string' },
      }));
      (paths[path] ??= {})[method.toLowerCase()] = {
        summary,
        ...(parameters.length ? { parameters } : {}),
        ...(body ? { requestBody: { required: true, content: { 'application/json': { schema: json(body) } } } } : {}),
        responses: {
          200: {
            description: 'The answer',
            ...(answer ? { content: { 'application/json': { schema: json(answer) } } } : {}),
          },
          400: {
            description:
              'What is wrong with the body: { code, message, faults: [{ code, path, expected, got, message }] }',
          },
        },
      };
    }
    return {
      openapi: '3.1.0',
      info: {
        title: 'Cork Elbow',
        version,
        description: 'Positions in mm, world frame; joint values in degrees or mm.',
      },
      paths,
    };
  }

  /** The same as a page to read. */
  page(version: string): string {
    const escape = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
    const show = (title: string, schema: z.ZodType): string =>
      `<details><summary>${title}</summary><pre>${escape(JSON.stringify(z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }), null, 2))}</pre></details>`;
    const rows = this.list.map(
      ({ method, url, summary, body, answer }) =>
        `<section><h2><code>${method} ${url}</code></h2><p>${escape(summary)}</p>${body ? show('body', body) : ''}${answer ? show('answer', answer) : ''}</section>`,
    );
    return (
      '<!doctype html><html lang="en"><meta charset="utf-8"><title>Cork Elbow: calls for scripts</title>' +
      '<style>body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;background:#fbf7ee;color:#1f2a2a}pre{background:#f3ecdd;padding:1rem;overflow:auto;font-size:13px}h2{font-size:1.05rem;margin:1.6rem 0 0}</style>' +
      `<h1>Calls for scripts</h1><p>Cork Elbow ${version}. Positions in mm, world frame; joint values in degrees or mm. The same as <a href="/api/openapi.json">OpenAPI</a>.</p>${rows.join('')}</html>`
    );
  }
}
