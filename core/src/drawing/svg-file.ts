/** A drawing as a file of its own, in ink on white. */
import type { Drawing } from './input';
import { group, markup, type Shape } from './shapes';

const STYLE =
  'text{font:11px sans-serif;fill:#1f2a2a}.grid{stroke:#e6dcc8}.axis{stroke:#cfc2a8}.grid-label{font-size:8px;fill:#5f6763}.link,.servo{fill:#f3ecdd;stroke:#1f2a2a;stroke-width:1.6;stroke-linejoin:round}' +
  '.body.dark{fill:#5d6a67}.body.cork,.carriage{fill:#e2c9a5}.ground{stroke:#1f2a2a;stroke-width:1.6;fill:none}.hatch,.extension{stroke:#4e5a57;stroke-width:.7}.dimension{stroke:#4e5a57}.arrow{fill:#4e5a57}' +
  '.obstacle{fill:none;stroke:#4e5a57}.glaze{fill:#c3cfc8}.reach-edge{stroke:#7d9c92;stroke-width:1.5;fill:#e6ece3}.far{opacity:.4}.ghost *{fill:none;stroke-dasharray:4 3}.trace{fill:none;stroke:#8f4c16}' +
  '.payload{fill:#f0dcc4;stroke:#8f4c16}.mark-shape{fill:#fff;stroke:#1f2a2a;stroke-width:1.5}.target path,.target circle{fill:none;stroke:#a3260f;stroke-width:1.5}.spot path{stroke:#8f4c16}' +
  '.limit-arc,.limit-end,.limit-now{fill:none;stroke:#8f4c16}.frame-axis{stroke:#1f2a2a}.frame-word{font-size:9px;font-style:italic}.map-0{fill:#e9efe6}.map-1{fill:#cfdfd3}.map-2{fill:#a9c8ba}.map-3{fill:#7fae9f}.map-hatch{stroke:#7a5300;stroke-width:.6}.map-gained{stroke:#36601f;stroke-width:1.2}.map-lost{stroke:#a3260f;stroke-width:1.2}.letter-disc{fill:#fff;stroke:#8f4c16}.letter{font:bold 12px sans-serif;fill:#8f4c16}';

/** `foot`: what stands under the drawing, in its own coordinates from the drawing's lower edge, and how high it is. */
export const toSvg = (
  drawing: Drawing,
  foot?: { readonly height: number; readonly shapes: readonly Shape[] },
): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${drawing.width} ${drawing.height + (foot?.height ?? 0)}" width="${drawing.width}" height="${drawing.height + (foot?.height ?? 0)}">` +
  `<style>${STYLE}</style>${markup([{ tag: 'text', cls: 'title', attrs: { x: drawing.width / 2, y: 16, 'text-anchor': 'middle' }, text: drawing.title }, ...drawing.shapes, ...(foot ? [group('foot', foot.shapes, { transform: `translate(0 ${drawing.height})` })] : [])])}</svg>`;
