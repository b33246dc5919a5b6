/** One word for one thing: what is read on the screen and in sentences keeps to the glossary of the manual. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

const root = join(import.meta.dirname, '../..');
/** Words that another one stands for, with that one. */
const instead: readonly (readonly [RegExp, string])[] = [
  [/\bremoves?\b/i, 'delete'],
  [/\bpre-?flight\b/i, 'checks'],
  [/\bticks\b/, 'driver counts'],
  [/\bown pose\b/i, 'my pose'],
  [/\btool ?point\b(?!s)/i, 'tip'],
  [/\bhome pose\b|\bhome position\b/i, 'rest'],
  [/(?<!no )\bemergency[ -]stop\b/i, 'stop'],
  [/\bget rid of\b/i, 'delete'],
  [/(?<![.:\w])(leader|follower|master|slave)s?\b/i, 'guide, and the joint that copies it'],
  [/\bmanipulability\b|\bdexterity\b/i, 'ease of motion'],
  [/\bch \d|\bchannel \d/i, 'pin'],
  [/\bper hour\b|\/ ?h\b/i, 'runs an hour'],
  [/\bdrive ?train\b/i, 'transmission'],
  [/\btop view\b/i, 'plan'],
  [/^home$|\b(?:from|of) home\b/i, 'rest'],
  [/\bflip\b|\bturn(?:ed)? (?:it )?round\b(?! and)/i, 'mirror, invert or reverse'],
  [/\bshare (?:a|per) loop\b/i, 'fraction per loop'],
  [/^(?:take (?:it$|it in|these|this (?!pose)|the list)|put the steps)/i, 'save, apply or insert'],
  [/\bby numbers\b/i, 'set angles'],
  [/\bpad friction\b/i, 'pad grip'],
];

/** What a component shows: text between tags and the words of labels, titles and the like, without what is computed. */
function shownBy(source: string): string[] {
  const template = /<template>([\s\S]*)<\/template>/.exec(source)?.[1] ?? '';
  const texts = [...template.matchAll(/>([^<>]+)</g)].map(([, text]) => text.replace(/\{\{[\s\S]*?\}\}/g, ' '));
  const labels = [...template.matchAll(/\b(?:label|title|aria-label|placeholder|prefix|header|name)="([^"]+)"/g)].map(
    ([, text]) => text.replace(/\$\{[^}]*\}/g, ' '),
  );
  const said = [...source.matchAll(/\b(?:label|name|says|question|hint): (?:'([^']+)'|`([^`]+)`)/g)].map(
    ([, plain, mixed]) => (plain ?? mixed).replace(/\$\{[^}]*\}/g, ' '),
  );
  return [...texts, ...labels, ...said].map((text) => text.trim()).filter((text) => /[a-z]{2}/i.test(text));
}
const files = (readdirSync(join(root, 'web/src'), { recursive: true, encoding: 'utf8' }) as string[]).filter((name) =>
  name.endsWith('.vue'),
);
const faultsIn = (where: string, texts: readonly string[]): string[] =>
  texts.flatMap((text) =>
    instead.flatMap(([word, other]) => (word.test(text) ? [`${where}: “${text.slice(0, 80)}”: say ${other}`] : [])),
  );

describe('words', () => {
  it('of the screen are those of the glossary', () => {
    const shown = files.map((name) => ({ name, texts: shownBy(readFileSync(join(root, 'web/src', name), 'utf8')) }));
    // It reads what there is to read.
    expect(shown.reduce((sum, { texts }) => sum + texts.length, 0)).toBeGreaterThan(1000);
    expect(shown.flatMap(({ name, texts }) => faultsIn(name, texts))).toEqual([]);
  });
  it('of all sentences are those of the glossary', () => {
    const rows = readFileSync(join(root, 'docs/messages.md'), 'utf8')
      .split('\n')
      .filter((row) => row.startsWith('| `'))
      .map((row) => row.replace(/`[^`]*`/g, ' ').replace(/\{[^}]*\}/g, ' '));
    expect(rows.length).toBeGreaterThan(150);
    expect(faultsIn('messages', rows)).toEqual([]);
  });
  it('finds another word where one stands', () => {
    const own = shownBy('<template><Button label="Remove it" /><p>The tool point {{ ticks }} is here</p></template>');
    expect(faultsIn('x', own).map((f) => f.split('say ')[1])).toEqual(expect.arrayContaining(['delete', 'tip']));
    expect(faultsIn('x', own)).toHaveLength(2);
  });
});
