/** Terms that a builder may not know, each with what it means in one line; longer ones stand in the manual's glossary. */
export const terms = {
  jerk: ['Jerk', 'how quickly the acceleration itself may change; less is gentler on gears.'],
  deadBand: ['Dead band', 'the smallest change of what it is sent that the motor answers to.'],
  easeOfMotion: ['Ease of motion', 'how evenly the tip can go every way from there; 0 % where one way is lost.'],
  heldBackBy: ['Held back by', 'what keeps a stretch of the run from being quicker.'],
  codeName: ['Code name', 'what tables and generated code call this joint.'],
  jitter: ['Jitter', 'by how much the length of a pulse wanders by itself.'],
  singular: ['Singular', 'joints are in line, and the tip cannot go one way; near it they must hurry.'],
} as const satisfies Record<string, readonly [string, string]>;
export type Term = keyof typeof terms;
