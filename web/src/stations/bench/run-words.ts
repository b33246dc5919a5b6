/** Runs in words. */
import type { RecordingEvent, RunEntry, RunState } from '@cork-elbow/core/contract';
import { formatNumber } from '@cork-elbow/core/units';

export const runWords: Readonly<Record<RunState, string>> = {
  idle: 'Nothing runs',
  starting: 'Going slowly to the start',
  running: 'Running',
  pausing: 'Slowing to a pause',
  paused: 'Paused',
  stopping: 'Stopping',
  finished: 'Finished',
  stopped: 'Stopped',
  failed: 'Ended by a fault',
};
export const outcomes = {
  finished: 'finished',
  stopped: 'stopped',
  failed: 'ended by a fault',
  'cut-off': 'cut off',
} as const;
export const ending = ({ outcome }: RunEntry): string =>
  outcome ? (outcomes[outcome as keyof typeof outcomes] ?? outcome) : 'going on';

/** `name`: of an input or output, by its id. */
export function eventWords(event: RecordingEvent, name: (signal: string) => string): string {
  switch (event.kind) {
    case 'state':
      return runWords[event.run];
    case 'step':
      return event.words;
    case 'signal':
      return `“${name(event.signal)}” ${event.on ? 'on' : 'off'}`;
    case 'waits':
      return `Waits for “${name(event.signal)}” to be ${event.is ? 'on' : 'off'}`;
    case 'pace':
      return `Speed ${formatNumber(event.share * 100, 0)} % of what was planned`;
    case 'notice':
      return event.text;
  }
}
