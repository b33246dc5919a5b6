/** Calls about motors: what was measured of them on a build, and kinds of motor that were added to the catalogue. */
import { calibrationEntry, calibrationList, motorList } from '@cork-elbow/core/contract';
import type { CatalogueEntry, Fact } from '@cork-elbow/core/rig';
import { call, nothing, rigPath } from './api';

const calibrationsOf = (id: string, build: string): string =>
  `${rigPath(id)}/builds/${encodeURIComponent(build)}/calibrations`;

export const motorsApi = {
  calibrations: (id: string, build: string) =>
    call('GET', calibrationsOf(id, build), calibrationList).then(({ calibrations }) => calibrations),
  recordCalibration: (id: string, build: string, fact: Fact, note: string) =>
    call('POST', calibrationsOf(id, build), calibrationEntry, { fact, note }),
  motors: () => call('GET', '/api/motors', motorList).then(({ motors }) => motors),
  putMotors: (motors: readonly CatalogueEntry[]) =>
    call('PUT', '/api/motors', motorList, { motors }).then((answer) => answer.motors),
  removeMotor: (id: string) => call('DELETE', `/api/motors/${encodeURIComponent(id)}`, nothing),
};
