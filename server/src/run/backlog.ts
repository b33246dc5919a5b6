/** What a page is told that reads slowly, or not at all. */
import type { ServerMessage } from '@cork-elbow/core/contract';

/** Beyond so many bytes that it has not read it is told no more where the arm is and what goes over the lines, so that what it hears next is the newest; then it is dropped. */
export const SLOW = 32 * 1024;
export const GONE = 1 << 20;

/** `unread`: bytes that wait for it. */
export function fate(type: ServerMessage['type'], unread: number): 'send' | 'skip' | 'drop' {
  if (unread > GONE) return 'drop';
  return (type === 'telemetry' || type === 'lines') && unread > SLOW ? 'skip' : 'send';
}
