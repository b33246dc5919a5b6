/** The pins that a motor's wire takes on its board, and what each has to do there. */
import type { Ability, Drive, Wire } from '../rig';

/** Beside the pin of its pulse, step, duty or bus. */
export const wireRoles = ['direction', 'enable', 'firstTrack', 'secondTrack'] as const;
export type WireRole = (typeof wireRoles)[number];
export interface PinJob {
  /** Abilities that do, the best first. */
  readonly any: readonly Ability[];
  /** What it is asked to do there. */
  readonly words: string;
}

/** What a drive's own pin has to do. */
export const pinJobs: Record<Drive['kind'], PinJob> = {
  servo: { any: ['pulse', 'soft-pulse'], words: 'make servo pulses' },
  'continuous-servo': { any: ['pulse', 'soft-pulse'], words: 'make servo pulses' },
  'bus-servo': { any: ['serial'], words: 'speak to bus servos' },
  stepper: { any: ['step'], words: 'make step pulses' },
  'dc-encoder': { any: ['pwm'], words: 'set a duty' },
};
const level: PinJob = { any: ['output'], words: 'give out a level' };
const count: PinJob = { any: ['input'], words: 'count pulses' };
/** What a further pin has to do. */
export const roleJobs: Record<WireRole, PinJob> = {
  direction: level,
  enable: level,
  firstTrack: count,
  secondTrack: count,
};
/** Tracks of a counter that are on no pin. */
export const missingTracks = (wire: Wire) =>
  (['firstTrack', 'secondTrack'] as const).filter((track) => wire[track] === undefined);
/** As it is called, on paper and in sentences. */
export const roleNames: Record<WireRole, string> = {
  direction: 'direction',
  enable: 'enable',
  firstTrack: 'first track',
  secondTrack: 'second track',
};
const mainNames: Record<Drive['kind'], string> = {
  servo: 'pulse',
  'continuous-servo': 'pulse',
  'bus-servo': 'bus',
  stepper: 'step',
  'dc-encoder': 'duty',
};

/** The further pins that a kind of drive may have, and those that its wire has all the same. */
export const rolesOf = (kind: Drive['kind'], wire?: Wire): readonly WireRole[] =>
  wireRoles.filter((role) => own[kind]?.includes(role) || wire?.[role] !== undefined);
const own: Partial<Record<Drive['kind'], readonly WireRole[]>> = {
  stepper: ['direction', 'enable'],
  'dc-encoder': wireRoles,
};

export interface WirePin {
  /** null: its own pin. */
  readonly role: WireRole | null;
  readonly pin: number;
  readonly name: string;
  readonly job: PinJob;
}
/** All pins of a wire that are given, its own first. */
export const wirePins = (wire: Wire, kind: Drive['kind']): WirePin[] => [
  { role: null, pin: wire.channel, name: mainNames[kind], job: pinJobs[kind] },
  ...furtherPins(wire),
];
/** Those beside its own. */
export const furtherPins = (wire: Wire): WirePin[] =>
  wireRoles.flatMap((role) => {
    const pin = wire[role];
    return pin === undefined ? [] : [{ role, pin, name: roleNames[role], job: roleJobs[role] }];
  });
