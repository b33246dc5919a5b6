/** Each joint's mark: a letter in a shape, the same on stage, strip, tables and charts, so that colour never speaks alone. */
import { group, path, text, type Pt, type Shape } from './shapes';

export const MARKS = 8;
export const letterOf = (index: number): string =>
  String.fromCharCode(65 + (index % 26)) + (index >= 26 ? String(Math.floor(index / 26)) : '');
/** Class joint-1 … joint-8 that carries the joint's colour. */
export const markClass = (index: number): string => `joint-${(index % MARKS) + 1}`;
/** Dash pattern of the joint's line in charts. */
export const markDash = (index: number): number[] =>
  [[], [7, 3], [2, 3], [9, 3, 2, 3], [5, 5], [12, 4], [3, 2, 3, 6], [1, 4]][index % MARKS];

const sides = (count: number, turn: number, r: number): Pt[] =>
  Array.from({ length: count }, (_, k) => {
    const a = ((turn + (360 / count) * k) * Math.PI) / 180;
    return [r * Math.cos(a), r * Math.sin(a)] as const;
  });
const d = (points: readonly Pt[]): string =>
  points.map(([x, y], i) => `${i ? 'L' : 'M'}${x.toFixed(2)} ${y.toFixed(2)}`).join('') + 'Z';

/** Outline of mark `index` around 0,0 for a disc of radius r. */
export function markOutline(index: number, r: number): string {
  switch (index % MARKS) {
    case 0:
      return `M${-r} 0a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`;
    case 1:
      return `M${-0.88 * r} ${-0.88 * r}h${1.76 * r}v${1.76 * r}h${-1.76 * r}Z`;
    case 2:
      return d(sides(4, 0, 1.22 * r));
    case 3:
      return d(sides(6, 0, 1.1 * r));
    case 4:
      return d(sides(3, -90, 1.38 * r).map(([x, y]) => [x, y + 0.12 * r] as const));
    case 5:
      return d(sides(5, -90, 1.14 * r));
    case 6:
      return `M${-0.9 * r} ${-0.9 * r}h${1.8 * r}v${0.9 * r}q0 ${0.85 * r} ${-0.9 * r} ${1.2 * r}q${-0.9 * r} ${-0.35 * r} ${-0.9 * r} ${-1.2 * r}Z`;
    default:
      return d(Array.from({ length: 10 }, (_, k) => sides(10, -90, k % 2 ? 0.78 * r : 1.25 * r)[k]));
  }
}

/** Where the letter sits best inside the shape (share of r, y down). */
export const letterShift = (index: number): number => (index % MARKS === 4 ? 0.28 : 0);

/** How far aside (marks) and which way a mark steps that would lie on another. */
const ASIDE = [1.15, 1.9, 2.8, 4];
const AROUND: readonly Pt[] = [
  [-1, 0],
  [1, 0],
  [-0.8, -0.6],
  [0.8, -0.6],
  [-0.8, 0.6],
  [0.8, 0.6],
  [0, -1],
  [0, 1],
];
/**
 * Where marks of radius `size` (px) go that belong to these places: at the very place (the same pair), or as near to it as no mark before
 * it and no edge of the page is in the way; at the place all the same where there is no room.
 */
export function setApart(
  pages: readonly Pt[],
  { size, width, height }: { readonly size: number; readonly width: number; readonly height: number },
): Pt[] {
  const gap = 2 * size + 2;
  const rim = size + 2;
  const taken: Pt[] = [];
  const isClear = (p: Pt): boolean => taken.every((t) => Math.hypot(t[0] - p[0], t[1] - p[1]) >= gap);
  const isInside = ([x, y]: Pt): boolean => x >= rim && y >= rim && x <= width - rim && y <= height - rim;
  for (const page of pages) {
    const aside = ASIDE.flatMap((far) =>
      AROUND.map(([x, y]): Pt => [page[0] + x * far * gap, page[1] + y * far * gap]),
    );
    taken.push(isClear(page) ? page : (aside.find((p) => isInside(p) && isClear(p)) ?? page));
  }
  return taken;
}

export const mark = (index: number, [x, y]: Pt, r: number, extra = ''): Shape =>
  group(
    `mark ${markClass(index)} ${extra}`.trim(),
    [
      path('mark-shape', markOutline(index, r)),
      text('mark-letter', [0, letterShift(index) * r], letterOf(index), {
        'font-size': Math.round(r * 1.1 * 10) / 10,
        'text-anchor': 'middle',
        dy: '0.35em',
      }),
    ],
    { transform: `translate(${x.toFixed(2)} ${y.toFixed(2)})` },
  );
