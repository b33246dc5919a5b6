import { describe, expect, it } from 'vitest';
import { fate, GONE, SLOW } from './backlog';

describe('a page that reads slowly', () => {
  it('hears every state, but of places the newest only; one that does not read is dropped', () => {
    for (const unread of [0, SLOW]) {
      for (const type of ['telemetry', 'lines'] as const) expect(fate(type, unread)).toBe('send');
      expect(fate('status', unread)).toBe('send');
    }
    for (const unread of [SLOW + 1, GONE]) {
      for (const type of ['telemetry', 'lines'] as const) expect(fate(type, unread)).toBe('skip');
      for (const type of ['status', 'refused', 'ping'] as const) expect(fate(type, unread)).toBe('send');
    }
    for (const type of ['telemetry', 'status', 'refused', 'ping'] as const) expect(fate(type, GONE + 1)).toBe('drop');
    expect(SLOW).toBeLessThan(GONE);
  });
});
