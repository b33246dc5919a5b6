/** A frame as three short ink lines from its origin, each named by its letter in words: forward, left, up. */
import { axisOf, positionOf, vec3 } from '../linear';
import { toPage, type View } from './project';
import { circle, group, line, text, type Shape } from './shapes';

const WORDS = ['forward', 'left', 'up'] as const;
/** Length of an axis line on the page at full length (px). */
const LENGTH = 30;

export function frameMark(view: View, frame: Float64Array, name: string): Shape[] {
  const o = toPage(view, positionOf(frame));
  const shapes: Shape[] = [circle('frame-origin', o, 2.6)];
  ([0, 1, 2] as const).forEach((c) => {
    const tip = toPage(view, vec3.add(positionOf(frame), vec3.scale(axisOf(frame, c), LENGTH / view.scale)));
    const d = Math.hypot(tip[0] - o[0], tip[1] - o[1]);
    if (d < 9) return;
    shapes.push(line('frame-axis', o, tip));
    const beyond = 1 + 9 / d;
    shapes.push(
      text('frame-word', [o[0] + (tip[0] - o[0]) * beyond, o[1] + (tip[1] - o[1]) * beyond], WORDS[c], {
        'text-anchor': tip[0] > o[0] + 8 ? 'start' : tip[0] < o[0] - 8 ? 'end' : 'middle',
        dy: '0.35em',
      }),
    );
  });
  shapes.push(text('frame-name', [o[0] + 6, o[1] + 15], name));
  return [group('frame-mark', shapes)];
}
