/** What is kept of runs: taken down, read again, compared, written as files. */
export * from './shape';
export * from './recorder';
export * from './track';
export * from './figures';
export * from './files';
export * from './bytes';
