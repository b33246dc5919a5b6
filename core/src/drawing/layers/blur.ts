/** How a place scatters, as the outline that a ball of its deviations has on the page. */
import type { Vec3 } from '../../linear';
import { toPage } from '../project';
import { path, polyD } from '../shapes';
import { layer2d } from './layer';

const CORNERS = 64;

export const blur = layer2d({
  kind: 'blur',
  place: 'over',
  draw: ({ view }, { at, shape, times }) => {
    const [x, y] = toPage(view, at);
    const axes = [0, 1, 2].map((k): readonly [number, number] => {
      const [px, py] = toPage(view, at.map((v, i) => v + times * shape[3 * i + k]) as unknown as Vec3);
      return [px - x, py - y];
    });
    const sum = (a: 0 | 1, b: 0 | 1): number => axes.reduce((all, axis) => all + axis[a] * axis[b], 0);
    // The outline of the projected ellipsoid, by Cholesky's square root of what it is on the page.
    const first = Math.sqrt(sum(0, 0));
    const across = first > 1e-9 ? sum(0, 1) / first : 0;
    const second = Math.sqrt(Math.max(0, sum(1, 1) - across * across));
    const outline = Array.from({ length: CORNERS }, (_, k) => {
      const [c, s] = [Math.cos((2 * Math.PI * k) / CORNERS), Math.sin((2 * Math.PI * k) / CORNERS)];
      return [x + first * c, y + across * c + second * s] as const;
    });
    return [path('blur', `${polyD(outline)}Z`)];
  },
});
