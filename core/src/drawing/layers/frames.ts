/** Named frames and the tools' own frames. */
import { forward, namedFrames } from '../../kinematics';
import { positionOf } from '../../linear';
import { frameMark } from '../frame-mark';
import { depthOf, toPage } from '../project';
import type { Pt } from '../shapes';
import { layer2d } from './layer';

export const frames = layer2d({
  kind: 'frames',
  place: 'joints',
  draw: ({ view, input: { rig, mechanism, q } }) => {
    const posed = forward(mechanism, q);
    const names = new Map(rig.frames.map((frame) => [frame.id, frame.name]));
    const all = [
      ...[...namedFrames(mechanism, posed, rig.frames)].map(([id, at]) => ({ at, name: names.get(id)! })),
      ...mechanism.tools
        .filter((tool) => tool.mounted)
        .map((tool) => ({ at: posed.tools.get(tool.id)!, name: tool.name })),
    ];
    // Of frames one behind the other, the nearest is shown.
    const taken: Pt[] = [];
    return all
      .sort((a, b) => depthOf(view, positionOf(b.at)) - depthOf(view, positionOf(a.at)))
      .flatMap(({ at, name }) => {
        const p = toPage(view, positionOf(at));
        if (taken.some((o) => Math.hypot(o[0] - p[0], o[1] - p[1]) < 4)) return [];
        taken.push(p);
        return frameMark(view, at, name);
      });
  },
});
