/**
 * Never handed on to what makes an arm move (`data-moves`), and a key that is held down presses nothing that it was not pressed on.
 *
 * The focus never falls to nowhere: where the element that had it goes away or is switched off, what stands nearest to its place takes it;
 * where its dialog is closed, what had it before; else the heading of the page.
 */
const FOCUSABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), summary, [tabindex]:not([tabindex="-1"])';

/** What makes an arm move at once. */
const MOVES = '[data-moves]';

/** Places in the page that had the focus, the last one first; each with its ancestors, inner ones first, and its place among their controls, seen or not: looking costs a layout. */
interface Place {
  readonly element: HTMLElement;
  readonly around: readonly { readonly box: HTMLElement; readonly at: number }[];
}

const canTake = (element: HTMLElement): boolean =>
  element.isConnected &&
  !(element as HTMLButtonElement).disabled &&
  element.checkVisibility({ checkVisibilityCSS: true });
const controlsIn = (box: HTMLElement): HTMLElement[] => [...box.querySelectorAll<HTMLElement>(FOCUSABLE)];
/** Boxes that mean something to a person: what was near is looked for in them, not in the whole page. */
const BOXES =
  'li, tr, ul, ol, table, form, fieldset, section, nav, header, footer, [role=group], [role=dialog], .row, .station-body';

function placeOf(element: HTMLElement): Place {
  const around: Place['around'][number][] = [];
  for (
    let box = element.parentElement?.closest<HTMLElement>(BOXES);
    box;
    box = box.parentElement?.closest<HTMLElement>(BOXES)
  )
    around.push({ box, at: controlsIn(box).indexOf(element) });
  return { element, around };
}
/** What stands nearest to where the focus was. */
function nearest({ element, around }: Place): HTMLElement | null {
  if (canTake(element) && !element.matches(MOVES)) return element;
  for (const { box, at } of around) {
    if (!box.isConnected || !box.checkVisibility()) continue;
    const controls = controlsIn(box);
    // The next ones that move nothing, from its place on and then before it.
    const safe = (list: HTMLElement[]): HTMLElement | undefined => list.find((c) => !c.matches(MOVES) && canTake(c));
    const from = Math.min(Math.max(0, at), controls.length - 1);
    const next = safe(controls.slice(from)) ?? safe(controls.slice(0, from).reverse());
    if (next) return next;
  }
  return null;
}

/** Watches the document until the function that is given back is called. */
export function keepFocus(document: Document): () => void {
  const places: Place[] = [];
  let isDue = false;
  /** Left by intention, by a press beside everything: then nothing is handed on. */
  let isLeft = false;
  /** A key was down as the focus was handed on. */
  let isHeld = false;
  const isLost = (): boolean => document.activeElement === null || document.activeElement === document.body;
  function note(event: FocusEvent): void {
    const element = event.target;
    if (!(element instanceof HTMLElement) || element === document.body) return;
    isLeft = false;
    places.unshift(placeOf(element));
    places.length = Math.min(places.length, 12);
  }
  function mend(): void {
    isDue = false;
    const [last] = places;
    // A press beside everything takes the focus away by intention: what had it is still there.
    if (!last || isLeft || !isLost() || canTake(last.element)) return;
    const dialog = document.querySelector<HTMLElement>('[role=dialog], [role=alertdialog]');
    const next = dialog
      ? (controlsIn(dialog).find((c) => !c.matches(MOVES) && canTake(c)) ?? null)
      : (places.reduce<HTMLElement | null>((found, place) => found ?? nearest(place), null) ??
        document.querySelector<HTMLElement>('h1[tabindex]'));
    next?.focus({ preventScroll: !dialog });
    isHeld = true;
  }
  const later = (): void => {
    if (isDue) return;
    isDue = true;
    // Switched-off controls lose the focus with the next picture.
    requestAnimationFrame(() => requestAnimationFrame(mend));
  };
  const watcher = new MutationObserver((changes) => {
    const last = places[0]?.element as HTMLButtonElement | undefined;
    // Asked at every picture: nothing here may cost a layout.
    if (!last || isLeft || !(isLost() || last.disabled || !last.isConnected)) return;
    if (changes.some((c) => c.type === 'attributes' || c.removedNodes.length)) later();
  });
  function leave(event: FocusEvent): void {
    const element = event.target;
    if (event.relatedTarget || !(element instanceof HTMLElement)) return;
    // What is taken away or switched off is left too, but not by anybody.
    setTimeout(() => (isLeft = isLost() && canTake(element)));
  }
  function press(event: KeyboardEvent): void {
    if (!event.repeat) isHeld = false;
    if (!isHeld || (event.key !== 'Enter' && event.key !== ' ')) return;
    event.preventDefault();
    event.stopPropagation();
  }
  document.addEventListener('focusin', note);
  document.addEventListener('focusout', leave);
  document.addEventListener('keydown', press, true);
  watcher.observe(document.body, { childList: true, subtree: true, attributes: true, attributeFilter: ['disabled'] });
  return () => {
    document.removeEventListener('focusin', note);
    document.removeEventListener('focusout', leave);
    document.removeEventListener('keydown', press, true);
    watcher.disconnect();
  };
}
