import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { wiringFindings } from '../wiring';
import { catalogue, codes, info, remedyOf, sentenceOf, subjects } from './index';

describe('the catalogue of messages', () => {
  it('is the same list as docs/messages.md, in both directions', () => {
    const page = readFileSync(new URL('../../../docs/messages.md', import.meta.url), 'utf8');
    const listed = [...page.matchAll(/^\| `([a-z-]+)` \|/gm)].map((m) => m[1]);
    expect(listed.sort()).toEqual([...codes].sort());
    for (const code of codes) expect(page).toContain(catalogue[code].text.replace(/\|/g, '\\|'));
  });
  it('has each code from one subject only', () => {
    const all = subjects.flatMap((subject) => Object.keys(subject));
    expect(all.filter((code, k) => all.indexOf(code) !== k)).toEqual([]);
    expect([...all].sort()).toEqual([...codes].sort());
  });
  it('fills every place of every sentence', () => {
    for (const code of codes) {
      const names = [...catalogue[code].text.matchAll(/\{(\w+)/g)].map((m) => m[1]);
      const sentence = sentenceOf(code, Object.fromEntries(names.map((n) => [n, n === 'unit' ? '°' : 4])));
      expect(sentence).not.toMatch(/[{}?]/);
      // What helps knows no more than the sentence, but for an advice that is given as a whole.
      const known = new Set([...names, 'advice']);
      const wanted = [...(catalogue[code].remedy ?? '').matchAll(/\{(\w+)/g)].map((m) => m[1]);
      expect(wanted.filter((n) => !known.has(n))).toEqual([]);
      const remedy = remedyOf(code, { ...Object.fromEntries(names.map((n) => [n, 4])), advice: 'Do this.' });
      expect(remedy ?? '').not.toMatch(/[{}?]/);
    }
    expect(sentenceOf('limit-in-the-way', { joint: 'Elbow', byDeg: 7.25 })).toBe(
      'Elbow would have to go 7.3° past its limit.',
    );
    expect(info('revision-conflict')?.status).toBe(409);
  });
});

describe('a sentence without its figures', () => {
  it('does not compile', () => {
    const place = { station: 'motors' } as const;
    // @ts-expect-error: reads, maths, steps and every are missing
    expect(() => wiringFindings.finding('loop-over', place, { board: 'x', used: 1 })).toThrow('without its reads');
    // @ts-expect-error: its figures are missing altogether
    expect(() => wiringFindings.finding('ground-open', place)).toThrow('without its rail');
    // @ts-expect-error: no such code of this subject
    expect(() => wiringFindings.finding('uncalibrated', place, { drive: 'x' })).toThrow();
    expect(wiringFindings.finding('ground-open', place, { rail: 'Servo supply', more: 1 }).data).toEqual({
      ...{ rail: 'Servo supply', more: 1 },
    });
  });
  it('is an error in tests, so that none reaches a person', () => {
    expect(() => sentenceOf('target-over-limit', { step: 2 })).toThrow('without its joint');
    expect(() => remedyOf('output-boot-on', {})).toThrow('without its');
    expect(sentenceOf('run-held-back')).not.toMatch(/[{}?]/);
  });
});
