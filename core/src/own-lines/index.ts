export * from './template';
export * from './motors';
export * from './lines';
export * from './player';
export * from './stand-in';
