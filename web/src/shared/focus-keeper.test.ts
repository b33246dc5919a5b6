// @vitest-environment happy-dom
import { afterEach, beforeEach, expect, it } from 'vitest';
import { keepFocus } from './focus-keeper';

let end: () => void;
/** The next pictures have been drawn. */
const pictures = (): Promise<void> =>
  new Promise((done) =>
    setTimeout(() => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 20))), 20),
  );
const at = (name: string): HTMLElement => document.getElementById(name)!;
const focused = (): string => document.activeElement!.id || document.activeElement!.tagName;
const buttons = (...names: string[]): string => names.map((n) => `<li><button id="${n}">${n}</button></li>`).join('');

beforeEach(() => {
  HTMLElement.prototype.checkVisibility ??= () => true;
  document.body.innerHTML = `<h1 id="head" tabindex="-1">Question</h1><section><button id="add">add</button>
    <ul id="list">${buttons('a', 'b', 'c')}</ul></section>`;
  end = keepFocus(document);
});
afterEach(() => end());

it('goes to what took the place of what was deleted, and from a list that is empty to what stands by it', async () => {
  at('b').focus();
  at('b').parentElement!.remove();
  await pictures();
  expect(focused()).toBe('c');
  at('c').parentElement!.remove();
  await pictures();
  expect(focused()).toBe('a');
  at('a').parentElement!.remove();
  await pictures();
  expect(focused()).toBe('add');
});
it('goes back to what opened a dialog when that is closed, or on to its heading when nothing else is left', async () => {
  at('add').focus();
  const dialog = document.body.appendChild(document.createElement('div'));
  dialog.setAttribute('role', 'dialog');
  dialog.innerHTML = '<button id="close">close</button>';
  at('close').focus();
  dialog.remove();
  await pictures();
  expect(focused()).toBe('add');
  document.querySelector('section')!.remove();
  await pictures();
  expect(focused()).toBe('head');
});
it('goes past what would make an arm move', async () => {
  at('list').innerHTML = buttons('pause', 'run', 'stop');
  at('run').setAttribute('data-moves', '');
  at('pause').focus();
  at('pause').remove();
  await pictures();
  expect(focused()).toBe('stop');
});
it('lets a key that is held down press nothing that it was not pressed on', async () => {
  at('a').focus();
  at('a').parentElement!.remove();
  await pictures();
  const key = (repeat: boolean): boolean =>
    at('b').dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', repeat, bubbles: true, cancelable: true }));
  expect(focused()).toBe('b');
  expect(key(true)).toBe(false);
  expect(key(false)).toBe(true);
  expect(key(true)).toBe(true);
});
it('leaves alone what was left by intention', async () => {
  at('a').focus();
  at('a').blur();
  await pictures();
  // Also when that goes away later: the next key is not to press what happens to stand there.
  at('a').parentElement!.remove();
  await pictures();
  expect(focused()).toBe('BODY');
});
