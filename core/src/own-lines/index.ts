export * from './template';
export * from './starts';
export * from './motors';
export * from './lines';
export * from './player';
export * from './stand-in';
