export * from './grid';
export * from './map';
export * from './map-csv';
export * from './compare';
export * from './shell';
export * from './fixes';
export * from './touches';
export * from './points';
export * from './points-csv';
export * from './figures';
export * from './lengths';

export { deltaMeasures, type DeltaMeasure } from './measures';
export { reachFindings } from './findings';
