/** Bodies and answers of the HTTP interface, one file a resource, as the server's routes are. Positions in mm, world frame; joint values in ° or mm. */
export * from './compute';
export * from './files';
export * from './links';
export * from './motors';
export * from './network';
export * from './presets';
export * from './rigs';
export * from './runs';
export * from './searches';
export * from './shelf';
export { examples } from './shapes';
