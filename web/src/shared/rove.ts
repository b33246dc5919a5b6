/**
 * `v-rove="'button'"`: a list of controls as one stop of the Tab key, with arrow keys, Home and End inside. The stop is the control that
 * was last in focus, else the one that is pressed, else the first. `.across` takes the keys left and right as well as up and down.
 */
import type { Directive } from 'vue';

interface Roving {
  selector: string;
  last: HTMLElement | null;
  readonly onKey: (event: KeyboardEvent) => void;
  readonly onFocus: (event: FocusEvent) => void;
}
const held = new WeakMap<HTMLElement, Roving>();

const itemsOf = (box: HTMLElement, selector: string): HTMLElement[] =>
  [...box.querySelectorAll<HTMLElement>(selector)].filter((item) => !(item as HTMLButtonElement).disabled);

/** One item can be reached by Tab, the others by arrows from it. */
function settle(box: HTMLElement, roving: Roving): void {
  const items = itemsOf(box, roving.selector);
  const stop =
    (roving.last && items.includes(roving.last) ? roving.last : null) ??
    items.find((item) => item.matches('[aria-pressed=true], [aria-current], .router-link-active')) ??
    items[0];
  for (const item of items) {
    const index = item === stop ? 0 : -1;
    if (item.tabIndex !== index) item.tabIndex = index;
  }
}

export const vRove: Directive<HTMLElement, string, 'across'> = {
  mounted(box, { value, modifiers }) {
    const roving: Roving = {
      selector: value,
      last: null,
      onKey(event) {
        if (event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
        const items = itemsOf(box, roving.selector);
        const at = items.indexOf(event.target as HTMLElement);
        if (at < 0) return;
        const back = event.key === 'ArrowUp' || (modifiers.across && event.key === 'ArrowLeft');
        const on = event.key === 'ArrowDown' || (modifiers.across && event.key === 'ArrowRight');
        const to = back
          ? at - 1
          : on
            ? at + 1
            : event.key === 'Home'
              ? 0
              : event.key === 'End'
                ? items.length - 1
                : null;
        if (to === null) return;
        event.preventDefault();
        event.stopPropagation();
        items[Math.min(items.length - 1, Math.max(0, to))].focus();
      },
      onFocus(event) {
        const item = itemsOf(box, roving.selector).find((i) => i === event.target);
        if (!item) return;
        roving.last = item;
        settle(box, roving);
      },
    };
    held.set(box, roving);
    box.addEventListener('keydown', roving.onKey);
    box.addEventListener('focusin', roving.onFocus);
    settle(box, roving);
  },
  updated(box, { value }) {
    const roving = held.get(box);
    if (!roving) return;
    roving.selector = value;
    // What has been chosen meanwhile is the stop, unless somebody is in the list.
    if (!box.contains(document.activeElement)) roving.last = null;
    settle(box, roving);
  },
  unmounted(box) {
    const roving = held.get(box);
    if (!roving) return;
    box.removeEventListener('keydown', roving.onKey);
    box.removeEventListener('focusin', roving.onFocus);
  },
};
