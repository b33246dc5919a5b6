export * from './bounds';
export * from './channels';
export * from './law';
export * from './table';
export * from './csv';
export * from './signals';
export * from './pace';
export * from './own-lines';
