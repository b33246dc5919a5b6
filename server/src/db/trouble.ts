/** What can go wrong with the data folder and its database, in sentences. */
import { dirname } from 'node:path';
import { apiError, ApiError } from '../errors';

/** An error of the file system or the database as one of a call; anything else as it is. Its documents stay out of it. */
export function troubleOf(error: unknown, file: string): unknown {
  if (error instanceof ApiError) return error;
  for (let cause: unknown = error; cause instanceof Error; cause = cause.cause) {
    const { code = '', rawCode } = cause as { code?: string; rawCode?: number };
    const folder = dirname(file);
    switch (code.replace(/^(SQLITE_[A-Z]+)_.*/, '$1')) {
      case 'EEXIST':
      case 'ENOTDIR':
        return apiError('data-folder-file', { folder });
      case 'EACCES':
      case 'EPERM':
        return apiError('data-forbidden', { folder });
      case 'EROFS':
      case 'SQLITE_READONLY':
        return apiError('data-read-only', { file });
      case 'SQLITE_CANTOPEN':
        return apiError('data-forbidden', { folder });
      case 'ENOSPC':
      case 'SQLITE_FULL':
        return apiError('data-full', { folder });
      case 'SQLITE_NOTADB':
        return apiError('data-not-database', { file });
      case 'SQLITE_CORRUPT':
        return apiError('data-damaged', { file });
      case 'SQLITE_BUSY':
      case 'SQLITE_LOCKED':
        return apiError('data-locked', { file });
      case 'SQLITE_IOERR':
        return apiError('data-unreadable', { file, code: String(rawCode ?? code) });
    }
  }
  return error;
}
