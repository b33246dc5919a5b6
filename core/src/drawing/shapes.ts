/** A drawing as plain data: what the page renders and what is exported as SVG are the same list. */

export interface Shape {
  readonly tag: 'path' | 'circle' | 'text' | 'line' | 'g' | 'rect';
  /** Space-separated classes; the style sheet knows what ink, dimension, limit … look like. */
  readonly cls: string;
  readonly attrs: Readonly<Record<string, string | number>>;
  readonly text?: string;
  readonly children?: readonly Shape[];
}

export type Pt = readonly [number, number];

const n = (v: number): string => String(Math.round(v * 100) / 100);
export const path = (cls: string, d: string, attrs: Shape['attrs'] = {}): Shape => ({
  tag: 'path',
  cls,
  attrs: { d, ...attrs },
});
export const polygon = (cls: string, points: readonly Pt[], attrs: Shape['attrs'] = {}): Shape =>
  path(cls, polyD(points) + 'Z', attrs);
export const polyline = (cls: string, points: readonly Pt[]): Shape => path(cls, polyD(points));
export const polyD = (points: readonly Pt[]): string =>
  points.map(([x, y], i) => `${i ? 'L' : 'M'}${n(x)} ${n(y)}`).join('');
/** Dots as one shape, as wide as its stroke, whose ends are round: many shapes of their own are slow. */
export const dots = (cls: string, points: readonly Pt[]): Shape =>
  path(cls, points.map(([x, y]) => `M${n(x)} ${n(y)}h0`).join(''));
export const line = (cls: string, a: Pt, b: Pt): Shape => path(cls, polyD([a, b]));
export const circle = (cls: string, c: Pt, r: number): Shape => ({
  tag: 'circle',
  cls,
  attrs: { cx: n(c[0]), cy: n(c[1]), r: n(r) },
});
export const text = (cls: string, at: Pt, words: string, attrs: Shape['attrs'] = {}): Shape => ({
  tag: 'text',
  cls,
  attrs: { x: n(at[0]), y: n(at[1]), ...attrs },
  text: words,
});
export const group = (cls: string, children: readonly Shape[], attrs: Shape['attrs'] = {}): Shape => ({
  tag: 'g',
  cls,
  attrs,
  children,
});

/** Convex hull, anticlockwise in a y-up view (Andrew 1979). */
export function hull(points: readonly Pt[]): Pt[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (list: readonly Pt[]): Pt[] => {
    const out: Pt[] = [];
    for (const p of list) {
      while (out.length > 1) {
        const [a, b] = [out[out.length - 2], out[out.length - 1]];
        if ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0) break;
        out.pop();
      }
      out.push(p);
    }
    out.pop();
    return out;
  };
  return sorted.length < 3 ? sorted : [...half(sorted), ...half([...sorted].reverse())];
}

/** Outline of two discs and what lies between them: a tapered link with round ends. */
export function taperD(a: Pt, ra: number, b: Pt, rb: number): string {
  const dx = b[0] - a[0];
  const dy = b[1] - a[1];
  const d = Math.hypot(dx, dy);
  if (d <= Math.abs(ra - rb) + 1e-6) {
    const [c, r] = ra > rb ? [a, ra] : [b, rb];
    return `M${n(c[0] - r)} ${n(c[1])}a${n(r)} ${n(r)} 0 1 0 ${n(2 * r)} 0a${n(r)} ${n(r)} 0 1 0 ${n(-2 * r)} 0Z`;
  }
  const base = Math.atan2(dy, dx);
  const lean = Math.acos((ra - rb) / d);
  const at = (c: Pt, r: number, angle: number): string =>
    `${n(c[0] + r * Math.cos(angle))} ${n(c[1] + r * Math.sin(angle))}`;
  const big = (angle: number): number => (angle > Math.PI ? 1 : 0);
  return (
    `M${at(a, ra, base + lean)}A${n(ra)} ${n(ra)} 0 ${big(2 * Math.PI - 2 * lean)} 1 ${at(a, ra, base - lean)}` +
    `L${at(b, rb, base - lean)}A${n(rb)} ${n(rb)} 0 ${big(2 * lean)} 1 ${at(b, rb, base + lean)}Z`
  );
}

/** Circular arc from angle a to b (rad, y down the page), drawn the way of increasing angle where b > a. */
export function arcD(c: Pt, r: number, a: number, b: number): string {
  const p = (angle: number): string => `${n(c[0] + r * Math.cos(angle))} ${n(c[1] + r * Math.sin(angle))}`;
  return `M${p(a)}A${n(r)} ${n(r)} 0 ${Math.abs(b - a) > Math.PI ? 1 : 0} ${b > a ? 1 : 0} ${p(b)}`;
}

const escapes: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
export const escapeXml = (value: string): string => value.replace(/[&<>"]/g, (c) => escapes[c]);

/** The shapes as SVG markup. */
export function markup(shapes: readonly Shape[]): string {
  return shapes
    .map(({ tag, cls, attrs, text: words, children }) => {
      const list = Object.entries({ class: cls, ...attrs })
        .map(([k, v]) => ` ${k}="${escapeXml(String(v))}"`)
        .join('');
      const inner = (words ? escapeXml(words) : '') + (children ? markup(children) : '');
      return inner ? `<${tag}${list}>${inner}</${tag}>` : `<${tag}${list}/>`;
    })
    .join('');
}
