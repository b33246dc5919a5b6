/** What a board runs: a bridge that is driven from a computer, or what needs none. */
import {
  BAUD,
  brokenAt,
  busyAs,
  busyPercent,
  delayWords,
  linkBudget,
  scriptOf,
  sizeOf,
  sources,
  type Described,
  type HandControl,
} from '../../firmware';
import { fileName } from '../../rig';
import { defineExport, type ExportFile } from '../export';
import { finding } from '../findings';
import { lacksFor } from './checks';
import { options, players } from './options';
import { describedOf, tableFrom, workOf } from './work';

export const firmware = defineExport({
  id: 'firmware',
  name: 'Firmware',
  says: 'The program of a board, for the common setup-and-loop kind of project: a folder with a main file and what it knows of this rig.',
  takes: ['routine'],
  options,
  lacks: (source, chosen) => {
    const described = describedOf(source, chosen.board);
    if (!described) return [finding('firmware-no-board', { station: 'motors', part: 'boards' })];
    return lacksFor(described, source, chosen);
  },
  notes: (source, chosen) => {
    const described = describedOf(source, chosen.board)!;
    const { kind } = chosen;
    if (kind === 'script') return ['Without --go it only says what it would write.'];
    const work = workOf(described, source, { ...chosen, kind });
    const { flash, memory } = sizeOf(described, work);
    const kilo = (bytes: number): string => (bytes / 1000).toFixed(1);
    const busy = busyPercent(described, busyAs(work));
    const time = busy === null ? '' : ` It is busy about ${Math.round(busy)} % of its time.`;
    const size = `About ${kilo(flash)} kB of flash and ${kilo(memory)} kB of memory on an 8-bit board, beside the platform’s own parts.${time}`;
    if (work.kind === 'player') {
      const { frames, bytes, frameMs } = work.table;
      return [size, `The table: ${frames.levels.length} frames of ${frameMs} ms in ${kilo(bytes.length)} kB.`];
    }
    if (work.kind === 'steps')
      return [size, `The steps: ${kilo(work.steps.bytes.length)} kB; the board works out their motion by itself.`];
    if (work.kind === 'hand')
      return [size, ...restWords(described, work.control), ...buttonWords(described, work.control)];
    if (work.kind !== 'bridge') return [size];
    const budget = linkBudget(described, BAUD);
    const { baud, pointBytes, pointsPerS, out, back, refreshHz } = budget;
    const percent = (share: number): string => `${Math.round(share * 100)} %`;
    const line = `The line at ${baud} baud: ${pointBytes} bytes a point, ${pointsPerS} points a second, ${percent(out)} of what it carries; answers and reports ${percent(back)} of the way back.`;
    const slow =
      refreshHz !== null && refreshHz < pointsPerS
        ? [`Its slowest motor hears ${refreshHz} pulses a second; points between them it does not see.`]
        : [];
    return [size, line, delayWords(budget), ...slow];
  },
  write: (source, chosen): readonly ExportFile[] => {
    const described = describedOf(source, chosen.board)!;
    const { kind } = chosen;
    if (kind === 'script') {
      const name = fileName(source.rigId, source.planned!.routine.id, 'py');
      return [
        { ...scriptOf(described, name, tableFrom(described, source.planned!, chosen)), mediaType: 'text/x-python' },
      ];
    }
    const about = players.includes(kind) ? `${source.planned!.routine.id}-player` : kind;
    const folder = fileName(source.rigId, about, '').slice(0, -1);
    return sources(described, folder, workOf(described, source, { ...chosen, kind })).map(({ name, text }) => ({
      name,
      text,
      mediaType: 'text/x-c++src',
    }));
  },
});

/** That sticks lead nothing from where motors come on. */
function restWords(described: Described, { steering }: HandControl): string[] {
  const broken = steering && brokenAt(described, steering, steering.rest);
  return broken
    ? [
        `“${broken}” does not hold where the motors come on: sticks lead only once a letter has brought the arm to a pose that holds to all limits.`,
      ]
    : [];
}
/** Which button brings which kept pose. */
function buttonWords({ signals }: Described, { buttons, presets }: HandControl): string[] {
  const each = buttons.map((signal, k) => `${signals[signal].name}: ${presets[k].name}`);
  return each.length ? [`Buttons: ${each.join('; ')}.`] : [];
}
