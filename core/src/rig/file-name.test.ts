import { describe, expect, it } from 'vitest';
import { fileName } from './file-name';

describe('names of files', () => {
  it('say whose they are, what they are and of what kind, in plain letters', () => {
    expect(fileName('tile-dipper', 'reach-map-plan', 'svg')).toBe('tile-dipper-reach-map-plan.svg');
    expect(fileName('tile-dipper', 'dip-commands-50hz', 'csv')).toBe('tile-dipper-dip-commands-50hz.csv');
    expect(fileName('tile-dipper', '', 'rig.json')).toBe('tile-dipper.rig.json');
    expect(fileName('arm', 'drawing-test-circle-62.5mm', 'svg')).toBe('arm-drawing-test-circle-62-5mm.svg');
    expect(fileName(null, 'points', 'csv')).toBe('rig-points.csv');
    expect(fileName('Ärm/../x', 'a b', 'csv')).toBe('rm-x-a-b.csv');
  });
});
