/** Who has the controls of the boards: one page, until another one takes them on purpose. */
import { contractFindings, type ClientMessage, type PageName } from '@cork-elbow/core/contract';
import { ApiError } from '../errors';

/** What everybody may say at any time: who they are, that they are there and listen, and that it shall stop. */
const EVERYBODY: ReadonlySet<ClientMessage['type']> = new Set([
  'hello',
  'beat',
  'listen',
  'take',
  'pause',
  'stop',
  'halt',
]);

/** What who only watches may say: who stops somebody takes no controls. */
export const mayWatch = (type: ClientMessage['type']): boolean => type !== 'take' && EVERYBODY.has(type);

export class Control {
  /** The page that has them; null: whoever asks for something takes them. */
  holder: PageName | null = null;

  /** Refuses what only the page with the controls may ask for. `isFree`: no board is connected. */
  check(type: ClientMessage['type'], page: PageName, isFree: boolean): void {
    if (EVERYBODY.has(type)) return;
    if (!this.holder || isFree) this.holder = page;
    if (this.holder.page === page.page) return;
    const at = this.holder.openedAt.slice(11, 16);
    throw new ApiError('control-elsewhere', contractFindings.say('control-elsewhere', { at: `${at} UTC` }));
  }

  has({ page }: PageName): boolean {
    return this.holder?.page === page;
  }
}
