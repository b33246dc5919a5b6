/** Opening to the local network, for this computer; and the page on which a device of it is paired. */
import type { FastifyInstance, FastifyReply } from 'fastify';
import { z } from 'zod';
import { deviceBody, networkAnswer, networkBody } from '@cork-elbow/core/contract';
import { faulty, writes, type Api } from '../api';
import { apiError } from '../errors';
import { Network, PAIR } from '../network/network';
import { pairPage } from '../network/pair-page';

const tags = ['network'];
const ofDevice = z.strictObject({ id: z.string().describe('of the device') });

export function networkRoutes(api: Api, network: Network): void {
  api.get(
    '/api/network',
    {
      schema: {
        tags,
        summary: 'Whether devices of the local network may come in, and which.',
        response: { 200: networkAnswer },
      },
    },
    () => network.answer,
  );
  api.put(
    '/api/network',
    {
      ...writes,
      schema: {
        tags,
        summary: 'Opens the program to devices of the local network, or closes it to all of them.',
        body: networkBody,
        response: { 200: networkAnswer, ...faulty(400, 429) },
      },
    },
    async ({ body: { open, port } }) => {
      await network.choose(open, port);
      return network.answer;
    },
  );
  api.post(
    '/api/network/code',
    {
      ...writes,
      schema: {
        tags,
        summary: 'Shows a new code, by which one device is paired.',
        response: { 200: networkAnswer, ...faulty(409, 429) },
      },
    },
    () => {
      if (!network.showCode()) throw apiError('network-closed');
      return network.answer;
    },
  );
  api.put(
    '/api/network/devices/:id',
    {
      ...writes,
      schema: {
        tags,
        summary: 'Names a paired device, or says what it may do.',
        params: ofDevice,
        body: deviceBody,
        response: { 200: networkAnswer, ...faulty(400, 404, 429) },
      },
    },
    async ({ params: { id }, body }) => {
      if (!(await network.change(id, body))) throw apiError('not-found', { kind: 'device', id });
      return network.answer;
    },
  );
  api.delete(
    '/api/network/devices/:id',
    {
      ...writes,
      schema: {
        tags,
        summary: 'Removes a paired device: it is out at once.',
        params: ofDevice,
        response: { 200: networkAnswer, ...faulty(404, 429) },
      },
    },
    async ({ params: { id } }) => {
      if (!(await network.remove(id))) throw apiError('not-found', { kind: 'device', id });
      return network.answer;
    },
  );
}

/** A form says whose it is only where its page may be named. */
const page = (reply: FastifyReply, text: string): FastifyReply =>
  reply.type('text/html').header('referrer-policy', 'same-origin').send(text);

/** A page of its own, without a script: nothing of the program is handed out before a device is paired. */
export async function pairRoutes(app: FastifyInstance, network: Network): Promise<void> {
  await app.register((scope) => {
    scope.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_request, body, done) =>
      done(null, Object.fromEntries(new URLSearchParams(body as string))),
    );
    scope.get(PAIR, { schema: { hide: true } }, (request, reply) =>
      Network.isFrom(request) ? page(reply, pairPage('')) : reply.redirect('/'),
    );
    scope.post(PAIR, { schema: { hide: true } }, async (request, reply) => {
      if (!Network.isFrom(request)) return reply.redirect('/');
      const form = z.object({ code: z.string(), name: z.string().trim().max(60) }).safeParse(request.body);
      const { code = '', name = '' } = form.data ?? {};
      const paired = await network.pair(code, name || 'a device');
      if ('cookie' in paired) return reply.header('set-cookie', paired.cookie).redirect('/', 303);
      const wait = 'waitMs' in paired ? Math.ceil(paired.waitMs / 1000) : 0;
      const why =
        paired.is === 'none'
          ? 'No code is shown on the computer now: show a new one there, on the shelf, under “Other devices”.'
          : paired.is === 'early'
            ? `That was not looked at: the next try counts in ${wait} s.`
            : `This is not the code that the computer shows. The next try counts in ${wait} s.`;
      return page(reply.status(403), pairPage(why, name));
    });
    return Promise.resolve();
  });
}
