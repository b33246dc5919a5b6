/** What calls answer with, and how they are written in docs/http.md. */
import { readFileSync } from 'node:fs';
import type { z } from 'zod';
import * as contract from '@cork-elbow/core/contract';
import { exportList } from '@cork-elbow/core/exports';
import { importList } from '@cork-elbow/core/imports';

export const answers: Record<string, z.ZodType> = {
  'GET /api/health': contract.healthAnswer,
  'GET /api/rigs': contract.rigList,
  'GET /api/rigs/tile-dipper': contract.rigAnswer,
  'GET /api/rigs/tile-dipper/runs': contract.runList,
  'GET /api/rigs/tile-dipper/builds/b1/calibrations': contract.calibrationList,
  'POST /api/rigs/tile-dipper/builds/b1/calibrations': contract.calibrationEntry,
  'GET /api/rigs/tile-dipper/builds/b1/links': contract.linksAnswer,
  'PUT /api/rigs/tile-dipper/builds/b1/links': contract.linksAnswer,
  'GET /api/ports': contract.portList,
  'GET /api/settings/recordings': contract.keptBody,
  'PUT /api/settings/recordings': contract.keptBody,
  'GET /api/network': contract.networkAnswer,
  'GET /api/motors': contract.motorList,
  'PUT /api/motors': contract.motorList,
  'GET /api/presets': contract.presetList,
  'POST /api/presets/servo-arm-4': contract.presetAnswer,
  'POST /api/compute/forward': contract.forwardAnswer,
  'POST /api/compute/inverse': contract.inverseAnswer,
  'POST /api/compute/loads': contract.loadsAnswer,
  'POST /api/compute/plan': contract.planAnswer,
  'POST /api/compute/commands': contract.filesAnswer,
  'GET /api/export': contract.exportsAnswer,
  ...Object.fromEntries(exportList.map(({ id }) => [`POST /api/export/${id}`, contract.filesAnswer])),
  'GET /api/import': contract.importsAnswer,
  ...Object.fromEntries(importList.map(({ id }) => [`POST /api/import/${id}`, contract.importAnswer])),
  'POST /api/compute/motors': contract.motorsValuesAnswer,
  'POST /api/compute/findings': contract.findingsAnswer,
  'POST /api/compute/map': contract.mapAnswer,
  'POST /api/compute/changes': contract.changesAnswer,
  'POST /api/compute/lengths': contract.lengthsAnswer,
  'POST /api/compute/points': contract.pointsAnswer,
  'POST /api/compute/sweep': contract.sweepAnswer,
  'POST /api/compute/smoothing': contract.smoothingAnswer,
};

/** Examples of docs/http.md: a line "POST /path", then the body. */
export const docs = readFileSync(new URL('../../docs/http.md', import.meta.url), 'utf8');
export const written = [...docs.matchAll(/```http\n(.+?)```/gs)].map(([, block]) => {
  const [head, ...body] = block.trim().split('\n');
  const [method, path] = head.split(' ');
  return [method, path, body.length ? (JSON.parse(body.join('\n')) as unknown) : undefined] as const;
});
