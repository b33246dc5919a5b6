export * from './calibration';
export * from './servo-line';
export * from './native';
export * from './tied';
export * from './drive-map';
export * from './spin-map';
export * from './line';
export * from './catalogue';
