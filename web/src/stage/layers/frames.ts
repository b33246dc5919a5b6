/** Named frames and the tools' own frames. */
import { frameMarks } from '../three/marks';
import { drawn } from './layer';

export const frames = drawn('frames', (_, { rig, mechanism, q, ink }) => frameMarks(rig, mechanism, q, ink), {
  follows: true,
});
