export { formatRoutine, profileWords } from './write';
export { parseRoutine, type ParsedRoutine } from './read';
