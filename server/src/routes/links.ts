/** How boards are reached from this computer. */
import { linksAnswer, linksBody, portList } from '@cork-elbow/core/contract';
import { faulty, writes, type Api } from '../api';
import { keepLinks, linksOf } from '../db/links';
import type { Store } from '../db/open';
import { listPorts } from '../links/ports';
import { isBuild, ofBuild } from './of-rig';

const tags = ['boards'];

export function linkRoutes(api: Api, store: Store): void {
  api.get(
    '/api/ports',
    {
      schema: {
        tags,
        summary: 'Serial ports of the computer that the server runs on.',
        response: { 200: portList },
      },
    },
    () => listPorts(),
  );
  const ofLinks = '/api/rigs/:id/builds/:build/links';
  api.get(
    ofLinks,
    {
      schema: {
        tags,
        summary: 'How the boards of a build are reached from this computer.',
        params: ofBuild,
        response: { 200: linksAnswer },
      },
    },
    async ({ params: { id, build } }) => ({ links: await linksOf(store, id, build) }),
  );
  api.put(
    ofLinks,
    {
      ...writes,
      schema: {
        tags,
        summary: 'Chooses how the boards of a build are reached from this computer; nothing is connected by it.',
        params: ofBuild,
        body: linksBody,
        response: { 200: linksAnswer, ...faulty(400, 404, 429) },
      },
    },
    async ({ params: { id, build }, body: { links } }) => {
      await isBuild(store, id, build);
      await keepLinks(store, id, build, links);
      return { links };
    },
  );
}
