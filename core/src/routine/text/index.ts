export { formatRoutine } from './write';
export { parseRoutine, type ParsedRoutine } from './read';
