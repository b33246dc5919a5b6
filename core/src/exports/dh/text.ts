/** Denavit–Hartenberg tables as text. */
import type { DhConvention, DhTable } from '../../mechanism';
import type { Frame } from '../../rig';

export const dhHead = (convention: DhConvention): readonly string[] =>
  convention === 'standard'
    ? ['joint', 'type', 'θ °', 'd mm', 'a mm', 'α °']
    : ['joint', 'type', 'θ °', 'd mm', 'a₋₁ mm', 'α₋₁ °'];

/** The table with its frames, tabs between cells, as spreadsheets paste it; read back to the same by core/src/imports/dh. */
export function dhToText({ convention, rows, base, tool }: DhTable): string {
  const frame = (name: string, { xyzMm, rpyDeg }: Frame): (string | number)[] => [name, 'frame', ...xyzMm, ...rpyDeg];
  return (
    [
      ['convention', convention],
      frame('base', base),
      ['joint', 'type', 'theta °', 'd mm', 'a mm', 'alpha °', 'min', 'max'],
      ...rows.map((row, i) => [
        row.name ?? `joint ${i + 1}`,
        row.type,
        row.thetaDeg,
        row.dMm,
        row.aMm,
        row.alphaDeg,
        row.min ?? '',
        row.max ?? '',
      ]),
      frame('tool', tool),
    ]
      .map((cells) => cells.join('\t'))
      .join('\n') + '\n'
  );
}
