/** Names on a drawing that do not lie on one another. */
import type { Shape } from './shapes';

/** Height of a line of a label and the mean width of a letter (px). */
const LINE = 13;
const LETTER = 6;
/** Lines that a label is moved down at most. */
const MOST = 6;

interface Box {
  readonly left: number;
  readonly right: number;
  readonly base: number;
}
const widthOf = (shape: Shape): number => LETTER * (shape.text?.length ?? 0);
function boxOf(shape: Shape): Box {
  const [x, y] = [Number(shape.attrs.x), Number(shape.attrs.y)];
  const w = widthOf(shape);
  const left = shape.attrs['text-anchor'] === 'middle' ? x - w / 2 : x;
  return { left, right: left + w, base: y };
}
const meet = (a: Box, b: Box): boolean => a.left < b.right && b.left < a.right && Math.abs(a.base - b.base) < LINE;
const isLabel = (shape: Shape): boolean => shape.tag === 'text' && (shape.text ?? '') !== '';
const labelsIn = (shapes: readonly Shape[]): Shape[] =>
  shapes.flatMap((shape) => [...(isLabel(shape) ? [shape] : []), ...labelsIn(shape.children ?? [])]);

/** The shapes with each label moved down by whole lines until it lies on none before it and on none of `others`. */
export function clearLabels(shapes: readonly Shape[], others: readonly Shape[] = []): Shape[] {
  const taken = labelsIn(others).map(boxOf);
  const cleared = (shape: Shape): Shape => {
    if (shape.children) return { ...shape, children: shape.children.map(cleared) };
    if (!isLabel(shape)) return shape;
    const at = boxOf(shape);
    const places = Array.from({ length: MOST + 1 }, (_, k) => ({ ...at, base: at.base + k * LINE }));
    const free = places.find((place) => !taken.some((box) => meet(box, place))) ?? at;
    taken.push(free);
    return { ...shape, attrs: { ...shape.attrs, y: free.base } };
  };
  return shapes.map(cleared);
}
