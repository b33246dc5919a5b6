/** Where things are done: the stations in the order of the work, and the parts of each. Findings name them, and pages are made of them. */
export const stationParts = {
  measure: ['joints', 'rules', 'tools', 'base', 'around', 'table'],
  motors: ['joints', 'wires', 'boards', 'rails', 'signals', 'sensors', 'sheet', 'power-up', 'homing', 'leader'],
  reach: ['target', 'map', 'points', 'lengths', 'drawing'],
  load: ['lift', 'stand', 'supply', 'swap', 'balance', 'heat', 'accuracy', 'trials', 'sheet'],
  poses: [],
  routine: ['steps', 'text', 'build', 'timeline', 'smoothing'],
  'hand-off': ['out', 'in'],
  bench: ['live', 'recordings'],
} as const;
export type StationId = keyof typeof stationParts;
export type PartOf<S extends StationId> = (typeof stationParts)[S][number];
export const stationIds = Object.keys(stationParts) as [StationId, ...StationId[]];
