import { describe, expect, it } from 'vitest';
import { tileDipper } from '@cork-elbow/demo';
import { compute } from './compute';

const rig = tileDipper();
const map = (id: number, onProgress: (share: number) => void = () => undefined) =>
  compute.map(
    id,
    rig.mechanism,
    null,
    rig.mechanism.tools[0].id,
    { plane: 'side', height: 0.1, direction: [0, 0, -1], samples: 60_000, seed: 1, cell: 0.004 },
    onProgress,
  );

describe('what the worker works out', () => {
  it('stops where it is cancelled, and says nothing', async () => {
    const shares: number[] = [];
    const answer = map(1, (share) => {
      shares.push(share);
      compute.cancel(1);
    });
    expect(await answer).toBeNull();
    // It had only begun.
    expect(Math.max(...shares)).toBeLessThan(0.9);
  });
  it('goes on where another one is cancelled, and tells how far it is', async () => {
    const shares: number[] = [];
    compute.cancel(99);
    const made = await map(2, (share) => void shares.push(share));
    expect(made).not.toBeNull();
    expect(shares.length).toBeGreaterThan(0);
    shares.forEach((share, k) => {
      expect(share).toBeGreaterThanOrEqual(shares[k - 1] ?? 0);
      expect(share).toBeLessThanOrEqual(1);
    });
  });
});
