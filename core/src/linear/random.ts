/** A seeded stream of numbers in [0, 1), the same on every machine (Park & Miller 1988, minimal standard generator). */
export function seededRandom(seed: number): () => number {
  const modulus = 2 ** 31 - 1;
  let state = (Math.abs(Math.trunc(seed)) % (modulus - 1)) + 1;
  // Small seeds give small first numbers: run in.
  for (let i = 0; i < 8; i++) state = (state * 48271) % modulus;
  return () => (state = (state * 48271) % modulus) / modulus;
}
