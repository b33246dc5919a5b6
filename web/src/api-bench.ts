/** Calls about boards and how they are reached. */
import { linksAnswer, portList, type Links } from '@cork-elbow/core/contract';
import { call, rigPath } from './api';

const linksOf = (id: string, build: string): string => `${rigPath(id)}/builds/${encodeURIComponent(build)}/links`;

export const benchApi = {
  links: (id: string, build: string) => call('GET', linksOf(id, build), linksAnswer).then(({ links }) => links),
  keepLinks: (id: string, build: string, links: Links) => call('PUT', linksOf(id, build), linksAnswer, { links }),
  ports: () => call('GET', '/api/ports', portList),
};
