/** Templates to begin with. */
import { usualTemplate, type LineTemplate } from './template';

export const templateStarts: readonly {
  readonly id: string;
  readonly name: string;
  readonly template: LineTemplate;
}[] = [
  { id: 'pins', name: 'what motors are sent, by pin', template: usualTemplate },
  {
    ...{ id: 'angles', name: 'joints in their order, commas between' },
    template: { ...usualTemplate, head: '', each: '{joint:.1}', separator: ',' },
  },
  {
    ...{ id: 'names', name: 'joints by name, only what has changed' },
    template: { ...usualTemplate, head: '', each: '{id}={joint:.2}', separator: ' ', changedOnly: true, reply: 'ok' },
  },
  {
    ...{ id: 'counts', name: 'driver counts of 12 bits, by pin' },
    template: { ...usualTemplate, head: 'T ', each: '{channel} {counts}', separator: ', ' },
  },
];
