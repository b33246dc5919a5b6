/** A seeded stream of numbers in [0, 1), the same on every machine (Park & Miller 1988, minimal standard generator). */
export function seededRandom(seed: number): () => number {
  const modulus = 2 ** 31 - 1;
  let state = (Math.abs(Math.trunc(seed)) % (modulus - 1)) + 1;
  // Small seeds give small first numbers: run in.
  for (let i = 0; i < 8; i++) state = (state * 48271) % modulus;
  return () => (state = (state * 48271) % modulus) / modulus;
}

/** A draw of the normal distribution with deviation 1 (Box and Muller 1958), by two draws from 0 to below 1. */
export const normal = (random: () => number): number =>
  Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
