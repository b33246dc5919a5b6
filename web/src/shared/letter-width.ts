/** Width of a letter (px) of what is written in an element in letters of one width; asks for no layout. */
let pen: CanvasRenderingContext2D | null = null;
const known = new Map<string, number>();

export function letterWidth(element: Element): number {
  const { font, fontSize, letterSpacing } = getComputedStyle(element);
  const spacing = parseFloat(letterSpacing) || 0;
  let width = known.get(font);
  if (width === undefined) {
    pen ??= document.createElement('canvas').getContext('2d');
    if (pen) pen.font = font;
    width = pen ? pen.measureText('0').width : parseFloat(fontSize) * 0.6;
    // A font that is still on its way is measured again.
    if (document.fonts.status === 'loaded') known.set(font, width);
  }
  return width + spacing;
}
