/**
 * migrations[n] turns a document of version n into one of version n + 1: pure, total on any document that once passed
 * its version's schema. A sample of each older version is kept under samples/ and read by the tests.
 *
 * 1 → 2: new keys with defaults only (rotary delta, named frames, wheels, solids, cables, limits while another joint is
 * past a value, code names, tool times and friction, planes).
 * 2 → 3: new kinds of drives and transmissions, figures of drives.
 * 3 → 4: boards with pins, rails, signals, sensors, leaders, homing, power-up; more measured facts of builds.
 * 4 → 5: new kinds of steps, targets, paces; roles of routines; how motors are told where to go; bands in which a motor rattles.
 * 5 → 6: what a tool keeps of its orientation on a way.
 * 6 → 7: inputs that stop the arm.
 * 7 → 8: what loads hang on: friction, efficiency, counterweights, springs, where motors sit, batteries, converters, leads.
 * 8 → 9: stiffness and bearings of joints, heat of motors, what relays, plugs and pins carry, how a base goes, poses fit for driving,
 * lifts that were tried, closing on something, what a routine slows down for.
 * 9 → 10: pins of a motor's counter.
 */
type Document = Record<string, unknown>;
interface OldBoard {
  readonly id: string;
  readonly name: string;
  readonly channels: number;
}

/** A board that was known by its number of channels: each is a pin that makes pulses. */
const withPins = ({ id, name, channels }: OldBoard): Document => ({
  id,
  name,
  kind: 'servo-board',
  logicV: 5,
  pins: Array.from({ length: channels }, (_, pin) => ({ pin, label: `${pin}`, can: ['pulse'], boot: 'off' })),
});

export const migrations: Record<number, (document: Document) => Document> = {
  1: (document) => ({ ...document, version: 2 }),
  2: (document) => ({ ...document, version: 3 }),
  3: (document) => ({ ...document, version: 4, boards: (document.boards as OldBoard[] | undefined)?.map(withPins) }),
  4: (document) => ({ ...document, version: 5 }),
  5: (document) => ({ ...document, version: 6 }),
  6: (document) => ({ ...document, version: 7 }),
  7: (document) => ({ ...document, version: 8 }),
  8: (document) => ({ ...document, version: 9 }),
  9: (document) => ({ ...document, version: 10 }),
};
