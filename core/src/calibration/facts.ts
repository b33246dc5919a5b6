/** What was measured on a build, taken out of it and put into it again: the rows of its history. */
import { entryOf, type Build, type Fact } from '../rig';
import { calibrationOf, trimOf } from '../actuators/servo-line';

/** A build keeps so many; its history has them all. */
const MOST_LIFTS = 200;

/** What a fact is about: a drive, a sensor, or a joint. */
export function subjectOf(fact: Fact): string {
  switch (fact.kind) {
    case 'points':
      return fact.calibration.drive;
    case 'sensor':
      return fact.sensor;
    case 'backlash':
    case 'range':
      return fact.joint;
    case 'lift':
      return fact.lift.drive;
    default:
      return fact.drive;
  }
}

/** The facts that a build now holds about a subject. */
export function factsOf(build: Build, subject: string): Fact[] {
  const calibration = calibrationOf(build, subject);
  const turn = entryOf(build.turns, subject);
  const speeds = entryOf(build.speeds, subject);
  const reading = entryOf(build.sensors, subject);
  const backlash = entryOf(build.backlash, subject);
  const range = entryOf(build.confirmed, subject);
  const lifts = build.lifts?.filter(({ drive }) => drive === subject) ?? [];
  return [
    ...(calibration ? [{ kind: 'points' as const, calibration, trimUs: trimOf(build, subject) }] : []),
    ...(turn ? [{ kind: 'turn' as const, drive: subject, turn }] : []),
    ...(speeds ? [{ kind: 'speeds' as const, drive: subject, speeds }] : []),
    ...(reading ? [{ kind: 'sensor' as const, sensor: subject, reading }] : []),
    ...(backlash ? [{ kind: 'backlash' as const, joint: subject, backlash }] : []),
    ...(range ? [{ kind: 'range' as const, joint: subject, range }] : []),
    ...lifts.map((lift) => ({ kind: 'lift' as const, lift })),
  ];
}

/** Puts a fact into a draft of a build, in place of what was there about the same; lifts one beside the other. */
export function applyFact(build: Build, fact: Fact): void {
  switch (fact.kind) {
    case 'points':
      build.calibrations = [
        ...build.calibrations.filter((c) => c.drive !== fact.calibration.drive),
        structuredClone(fact.calibration),
      ];
      build.trims[fact.calibration.drive] = fact.trimUs;
      return;
    case 'turn':
      build.turns[fact.drive] = { ...fact.turn };
      return;
    case 'speeds':
      build.speeds[fact.drive] = structuredClone(fact.speeds);
      return;
    case 'sensor':
      build.sensors[fact.sensor] = structuredClone(fact.reading);
      return;
    case 'backlash':
      build.backlash[fact.joint] = { ...fact.backlash };
      return;
    case 'range':
      build.confirmed[fact.joint] = { ...fact.range };
      return;
    case 'lift': {
      // Each trial stands beside the others; the same one only once.
      const same = JSON.stringify(fact.lift);
      const others = (build.lifts ?? []).filter((lift) => JSON.stringify(lift) !== same);
      build.lifts = [...others, structuredClone(fact.lift)].slice(-MOST_LIFTS);
    }
  }
}
