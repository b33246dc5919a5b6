/** Bounds of the many numbers of a loop: as `expect` has them, which is asked only where it would fail, since asking it takes long. */
import { expect } from 'vitest';

type Words = () => string;
export const atMost = (value: number, most: number, words?: Words): void => {
  if (!(value <= most)) expect(value, words?.()).toBeLessThanOrEqual(most);
};
export const atLeast = (value: number, least: number, words?: Words): void => {
  if (!(value >= least)) expect(value, words?.()).toBeGreaterThanOrEqual(least);
};
export const below = (value: number, most: number, words?: Words): void => {
  if (!(value < most)) expect(value, words?.()).toBeLessThan(most);
};
