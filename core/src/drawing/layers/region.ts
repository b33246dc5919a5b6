/** Where the tool's point can be: in the arm's own plane, and how far out from above. */
import { positionOf } from '../../linear';
import type { PlanarArm } from '../../kinematics';
import type { Mechanism } from '../../mechanism';
import { isUpright, planarArms } from '../page';
import { toPage, type View } from '../project';
import type { ReachRegion } from '../reach-outline';
import { arcD, circle, path, polyD, type Pt, type Shape } from '../shapes';
import { layer2d } from './layer';

export const region = layer2d({
  kind: 'region',
  place: 'under',
  draw: ({ view, input: { mechanism } }, shown) => {
    if (view.kind === 'front') return [];
    return (view.kind === 'side' ? sideReach : planReach)(view, shown, mechanism, planarArms(mechanism));
  },
});

/** The reach region, measured from the turn axis of the first planar arm. */
function sideReach(view: View, reach: ReachRegion, mechanism: Mechanism, planars: readonly PlanarArm[]): Shape[] {
  const d = regionPath(reach, view.scale);
  if (!d) return [];
  // The outline is the same wherever the arm stands and turns: only its place on the page moves.
  const [x, y] = toPage(view, planars[0]?.c ?? positionOf(mechanism.base));
  const transform = `translate(${x.toFixed(2)} ${y.toFixed(2)})`;
  return [path('reach-edge', d, { transform, 'fill-rule': 'evenodd' })];
}

const outlines = new WeakMap<ReachRegion, { readonly scale: number; readonly d: string }>();
/** The region in px round the turn axis, right and down; kept, for a drag draws it sixty times a second. */
function regionPath(reach: ReachRegion, scale: number): string {
  const before = outlines.get(reach);
  if (before?.scale === scale) return before.d;
  const d = reach.outline
    .map((loop) => {
      const corners = Array.from({ length: loop.length / 2 }, (_, k): Pt => [
        loop[2 * k] * scale,
        -loop[2 * k + 1] * scale,
      ]);
      return `${polyD(corners)}Z`;
    })
    .join('');
  outlines.set(reach, { scale, d });
  return d;
}

/** Outer reach over the turn's range, from above. */
function planReach(view: View, { quads }: ReachRegion, mechanism: Mechanism, planars: readonly PlanarArm[]): Shape[] {
  const planar = planars.find(isUpright);
  if (!planar) return [];
  let out = 0;
  for (let i = 0; i < quads.length; i += 2) out = Math.max(out, quads[i]);
  const zero = Math.atan2(planar.e1[1], planar.e1[0]);
  const [low, high] = [mechanism.lower[planar.slots[0]], mechanism.upper[planar.slots[0]]];
  const c = toPage(view, planar.c);
  const r = out * view.scale;
  if (!Number.isFinite(high - low) || high - low >= 2 * Math.PI) return [circle('reach-edge', c, r)];
  const [a, b] = [-(zero + low), -(zero + high)];
  const d = `${arcD(c, r, a, b)}L${c[0].toFixed(1)} ${c[1].toFixed(1)}Z`;
  return [path('reach-edge', d)];
}
