/** Calls about other devices of the local network. */
import { networkAnswer, type DeviceRight } from '@cork-elbow/core/contract';
import { call } from './api';

const PATH = '/api/network';
const device = (id: string): string => `${PATH}/devices/${encodeURIComponent(id)}`;

export const networkApi = {
  state: () => call('GET', PATH, networkAnswer),
  choose: (open: boolean, port: number) => call('PUT', PATH, networkAnswer, { open, port }),
  code: () => call('POST', `${PATH}/code`, networkAnswer),
  change: (id: string, change: { name?: string; right?: DeviceRight }) =>
    call('PUT', device(id), networkAnswer, change),
  remove: (id: string) => call('DELETE', device(id), networkAnswer),
};
