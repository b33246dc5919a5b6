/** What holds of every page, whatever stands on it: asked of the page itself, so that it can be said where it does not. */
import type { Page } from '@playwright/test';

interface Asked {
  /** Below this a target is too small to be hit: CSS pixels. */
  readonly target: number;
}

/**
 * Sentences about what is wrong with the page on show: text that is cut, controls that lie over each other or outside of the window,
 * targets that are too small, a document that scrolls. None: all is well.
 */
export async function faultsOf(page: Page, asked: Asked): Promise<string[]> {
  return page.evaluate(({ target }) => {
    const faults: string[] = [];
    const html = document.documentElement;
    const say = (e: Element): string =>
      `<${e.tagName.toLowerCase()}${e.className && typeof e.className === 'string' ? ` .${e.className.trim().split(/\s+/).join('.')}` : ''}> ` +
      `“${(e.getAttribute('aria-label') ?? (e as HTMLInputElement).value ?? e.textContent ?? '').trim().slice(0, 40)}”`;
    if (html.scrollHeight > html.clientHeight + 1 || html.scrollWidth > html.clientWidth + 1)
      faults.push(
        `the document scrolls: ${html.scrollWidth}x${html.scrollHeight} in ${html.clientWidth}x${html.clientHeight}`,
      );

    /** What is inside of an element can be seen of the window, by it and all around it that clips; each is looked at once. */
    type Clip = readonly [left: number, top: number, right: number, bottom: number];
    const clips = new Map<Element, Clip>();
    const clipBy = (e: Element | null): Clip => {
      if (!e) return [0, 0, innerWidth, innerHeight];
      let clip = clips.get(e);
      if (!clip) {
        const { overflowX, overflowY, position } = getComputedStyle(e);
        clip = overflowX !== 'visible' && position === 'fixed' ? clipBy(null) : clipBy(e.parentElement);
        if (overflowX !== 'visible' || overflowY !== 'visible') {
          const [l, t, r, b] = clip;
          const own = e.getBoundingClientRect();
          clip = [Math.max(l, own.left), Math.max(t, own.top), Math.min(r, own.right), Math.min(b, own.bottom)];
        }
        clips.set(e, clip);
      }
      return clip;
    };
    /** The part of an element that can be seen: what scrollers and clipped boxes around it leave, in the window. */
    const seen = (e: Element): DOMRect | null => {
      if (!(e as HTMLElement).checkVisibility({ checkOpacity: true, checkVisibilityCSS: true })) return null;
      const whole = e.getBoundingClientRect();
      const [left, top, right, bottom] = clipBy(e.parentElement);
      const [l, t] = [Math.max(left, whole.left), Math.max(top, whole.top)];
      const [r, b] = [Math.min(right, whole.right), Math.min(bottom, whole.bottom)];
      return r - l > 1 && b - t > 1 ? new DOMRect(l, t, r - l, b - t) : null;
    };
    const isSr = (e: Element): boolean => e.closest('.sr, [hidden], .p-hidden-accessible') !== null;

    // Figures, buttons and fields show all of their text.
    for (const e of document.querySelectorAll<HTMLElement>(
      'button, a, .num, th, td, dt, dd, h1, h2, h3, summary, legend, .chip, .prefix, .unit, input, label, .p-select-label',
    )) {
      if (isSr(e) || !seen(e)) continue;
      const style = getComputedStyle(e);
      if (e instanceof HTMLInputElement) {
        if (/^(range|checkbox|radio|file|search)$/.test(e.type) || document.activeElement === e) continue;
        if (e.classList.contains('num') && e.scrollWidth > e.clientWidth + 1) faults.push(`figure cut: ${say(e)}`);
        continue;
      }
      if (style.overflowX === 'auto' || style.overflowX === 'scroll') continue;
      if (
        e.scrollWidth > e.clientWidth + 1 &&
        style.overflowX !== 'visible' &&
        style.display !== 'inline' &&
        !e.title
      )
        faults.push(`text cut: ${say(e)} ${e.scrollWidth} in ${e.clientWidth}`);
      // What runs out of its box and out of a box around that clips it.
      for (const text of e.childNodes) {
        if (text.nodeType !== Node.TEXT_NODE || !text.textContent?.trim()) continue;
        const range = document.createRange();
        range.selectNodeContents(text);
        const words = range.getBoundingClientRect();
        for (let p: HTMLElement | null = e; p; p = p.parentElement) {
          const { overflowX } = getComputedStyle(p);
          if (overflowX === 'visible') continue;
          const box = p.getBoundingClientRect();
          if (overflowX !== 'auto' && overflowX !== 'scroll' && words.right > box.right + 1.5 && !p.title && !e.title)
            faults.push(
              `text runs out: ${say(e)} ${Math.round(words.right - box.right)} px past ${say(p).slice(0, 40)}`,
            );
          break;
        }
      }
    }

    const controls = [
      ...document.querySelectorAll<HTMLElement>(
        'button, a[href], input, select, textarea, summary, [role=combobox], [role=separator], [role=slider]',
      ),
    ].filter((e) => !isSr(e) && (e as HTMLInputElement).type !== 'file');
    const boxes = controls
      .map((e) => ({ e, box: seen(e) }))
      .filter((c): c is { e: HTMLElement; box: DOMRect } => c.box !== null);
    const inDialog = document.querySelector('[role=dialog]');
    for (const { e, box } of boxes) {
      // Whole ones only: what a scroller shows the edge of is reached by scrolling.
      const whole = e.getBoundingClientRect();
      if (whole.width - box.width > 1 || whole.height - box.height > 1) {
        let scrolled = false;
        for (let p = e.parentElement; p && !scrolled; p = p.parentElement)
          scrolled = /auto|scroll/.test(getComputedStyle(p).overflow);
        if (!scrolled) faults.push(`control outside of its frame: ${say(e)}`);
        continue;
      }
      // A field is pressed by all of its box; words of a link in a sentence are as high as the sentence.
      const hit = e.closest('.box, .p-select, label.tick, label.check')?.getBoundingClientRect() ?? whole;
      // A bar that is dragged is as long as its pane.
      if (e.getAttribute('role') === 'separator') continue;
      const inline = e.tagName === 'A' && getComputedStyle(e).display === 'inline';
      if (
        !inline &&
        (Math.max(hit.width, whole.width) < target - 0.5 || Math.max(hit.height, whole.height) < target - 0.5)
      )
        faults.push(
          `target too small: ${say(e)} ${Math.round(Math.max(hit.width, whole.width))}x${Math.round(Math.max(hit.height, whole.height))}`,
        );
    }
    // Nothing lies over anything else.
    for (let i = 0; i < boxes.length; i++)
      for (let j = i + 1; j < boxes.length; j++) {
        const [a, b] = [boxes[i], boxes[j]];
        if (a.e.contains(b.e) || b.e.contains(a.e)) continue;
        if (inDialog && inDialog.contains(a.e) !== inDialog.contains(b.e)) continue;
        const w = Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left);
        const h = Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
        if (w > 2 && h > 2)
          faults.push(`controls overlap: ${say(a.e)} and ${say(b.e)} by ${Math.round(w)}x${Math.round(h)}`);
      }
    return [...new Set(faults)];
  }, asked);
}
