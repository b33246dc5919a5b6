export * from './calibration';
export * from './servo-map';
export * from './checks';
export * from './native';
export * from './drive-map';
export * from './transmissions';
export * from './catalogue';
export * from './horn';
