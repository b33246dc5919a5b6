/** What of a drawing stands still while the arm moves: the view of the world, grid, ground, and what stands around. */
import { drawObstacle, spotMark } from './around';
import type { DrawingInput } from './input';
import { clearLabels } from './labels';
import { grid, ground, isInPlane, mm, planeOf, viewOf } from './page';
import { toPage, type View } from './project';
import type { Shape } from './shapes';

export interface Scenery {
  readonly view: View;
  readonly grid: readonly Shape[];
  readonly around: readonly Shape[];
  readonly spots: readonly Shape[];
  /** What it was made of, each compared by identity. */
  readonly of: readonly unknown[];
}

/**
 * The scenery of a drawing; `before` itself, with the very same shapes, where nothing that it hangs on has changed. In side
 * elevation it turns with the arm's base.
 */
export function sceneryOf(input: DrawingInput, before: Scenery | null = null): Scenery {
  const { rig, mechanism, q, kind, width, height, bare } = input;
  const plane = planeOf(input);
  const of = [
    ...[rig.mechanism, rig.obstacles, rig.spots, mechanism, kind, width, height],
    ...[bare, input.whole, input.spots === false, input.layers?.map?.map],
    ...[...plane.right, ...plane.origin, plane.slot],
    // In view is all the arm may reach or where it works, whatever its pose, or this pose alone.
    input.fit ?? 'reach',
    input.fit === 'pose' ? q : input.fit === 'work' ? input.poses : null,
    input.also,
  ];
  if (before?.of.every((own, i) => Object.is(own, of[i]))) return before;
  const view = viewOf(input, plane);
  const spots = input.spots === false ? [] : rig.spots;
  const marks = clearLabels(
    spots.map((spot) =>
      spotMark(toPage(view, mm(spot.xyzMm)), isInPlane(view, mm(spot.xyzMm), 0.03) ? spot.name : ''),
    ),
  );
  const around = rig.obstacles.flatMap((obstacle) => drawObstacle(view, mechanism, obstacle, bare));
  return {
    view,
    grid: grid(view, bare),
    around: [...clearLabels(around, marks), ...(kind === 'plan' ? [] : ground(view, rig, bare))],
    spots: marks,
    of,
  };
}
