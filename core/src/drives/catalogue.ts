/** Motors by size class, in generic figures of what such parts commonly have; every one is a beginning to be edited. */
import type { Drive } from '../rig';

/** A drive's figures without its place in a rig. */
export type DriveFigures = Drive extends infer D ? (D extends Drive ? Omit<D, 'id' | 'name'> : never) : never;

export interface CatalogueEntry {
  readonly id: string;
  readonly words: string;
  readonly figures: DriveFigures;
}

const servo = (
  id: string,
  words: string,
  [stallNm, speedDegPerS, massG, teeth]: readonly [number, number, number, number],
  [idleA, movingA, stallA]: readonly [number, number, number],
  travelDeg = 180,
): CatalogueEntry => ({
  id,
  words,
  figures: {
    kind: 'servo',
    model: words,
    direction: 1,
    stallNm,
    holdNm: Math.round(stallNm * 400) / 1000,
    voltageV: 6,
    idleA,
    movingA,
    stallA,
    massG,
    splineTeeth: teeth,
    travelDeg,
    centreUs: 1500,
    usPerDeg: travelDeg > 200 ? Math.round(200000 / travelDeg) / 100 : 10,
    minUs: travelDeg > 120 ? 500 : 1000,
    maxUs: travelDeg > 120 ? 2500 : 2000,
    speedDegPerS,
    deadBandUs: 5,
    updateHz: 50,
  },
});

const stepper = (
  id: string,
  words: string,
  stepsPerTurn: number,
  [holdNm, maxStepHz, massG, movingA]: readonly [number, number, number, number],
): CatalogueEntry => ({
  id,
  words,
  figures: {
    kind: 'stepper',
    model: words,
    direction: 1,
    stallNm: holdNm,
    holdNm,
    voltageV: 24,
    idleA: movingA / 2,
    movingA,
    stallA: movingA,
    massG,
    stepsPerTurn,
    microsteps: 16,
    maxStepHz,
    startStepHz: Math.round(maxStepHz / 20),
  },
});

const busServo = (
  id: string,
  words: string,
  [stallNm, speedDegPerS, massG]: readonly [number, number, number],
  [idleA, movingA, stallA]: readonly [number, number, number],
): CatalogueEntry => ({
  id,
  words,
  figures: {
    kind: 'bus-servo',
    model: words,
    direction: 1,
    stallNm,
    holdNm: Math.round(stallNm * 400) / 1000,
    voltageV: 7.4,
    idleA,
    movingA,
    stallA,
    massG,
    splineTeeth: 25,
    countsPerTurn: 4096,
    centreCount: 2048,
    minCount: 0,
    maxCount: 4095,
    address: 1,
    deadBandCounts: 1,
    speedDegPerS,
    updateHz: 100,
  },
});

const counted = (
  id: string,
  words: string,
  [stallNm, speedDegPerS, massG, countsPerTurn]: readonly [number, number, number, number],
  [idleA, movingA, stallA]: readonly [number, number, number],
): CatalogueEntry => ({
  id,
  words,
  figures: {
    kind: 'dc-encoder',
    model: words,
    direction: 1,
    stallNm,
    voltageV: 12,
    idleA,
    movingA,
    stallA,
    massG,
    speedDegPerS,
    countsPerTurn,
  },
});

export const catalogue: readonly CatalogueEntry[] = [
  servo('servo-4', 'sub-micro servo, 4 g', [0.05, 600, 4, 15], [0.004, 0.09, 0.4]),
  servo('servo-9', 'micro servo, 9 g', [0.16, 600, 9, 21], [0.005, 0.12, 0.65]),
  servo('servo-13', 'micro servo, metal gears, 13 g', [0.21, 600, 13, 20], [0.006, 0.15, 0.8]),
  servo('servo-20', 'mini servo, 20 g', [0.3, 460, 20, 25], [0.006, 0.2, 1]),
  servo('servo-45', 'standard servo, 45 g', [0.45, 350, 45, 25], [0.008, 0.25, 1.2]),
  servo('servo-55', 'standard servo, metal gears, 55 g', [1.0, 350, 55, 25], [0.01, 0.5, 2.3]),
  servo('servo-55-270', 'standard servo, metal gears, 270°, 60 g', [1.9, 320, 60, 25], [0.01, 0.6, 2.8], 270),
  servo('servo-70', 'strong servo, 70 g', [2.4, 300, 70, 25], [0.01, 0.8, 3.5]),
  servo('servo-160', 'giant servo, 160 g', [3.2, 300, 160, 15], [0.02, 1.5, 6]),
  servo('servo-400', 'quarter-scale servo, 400 g', [6.5, 250, 400, 15], [0.03, 3, 12]),
  {
    id: 'continuous-45',
    words: 'continuous servo, 45 g',
    figures: {
      kind: 'continuous-servo',
      model: 'continuous servo, 45 g',
      direction: 1,
      stallNm: 0.35,
      voltageV: 6,
      idleA: 0.008,
      movingA: 0.25,
      stallA: 1.2,
      massG: 45,
      splineTeeth: 25,
      stopUs: 1500,
      fullUs: 200,
      minUs: 1000,
      maxUs: 2000,
      speedDegPerS: 360,
      deadBandUs: 8,
      updateHz: 50,
      feedback: false,
    },
  },
  busServo('bus-20', 'bus servo, 20 g', [0.6, 370, 20], [0.03, 0.3, 1.1]),
  busServo('bus-55', 'bus servo, 55 g', [1.9, 330, 55], [0.05, 0.6, 2.4]),
  busServo('bus-70', 'strong bus servo, 70 g', [2.9, 270, 70], [0.06, 0.9, 3]),
  stepper('stepper-28', 'small geared stepper, 28 mm, 64 : 1', 2048, [0.034, 4000, 35, 0.24]),
  stepper('stepper-35', 'stepper, 35 mm frame', 200, [0.14, 32000, 180, 0.8]),
  stepper('stepper-42', 'stepper, 42 mm frame, 40 mm long', 200, [0.42, 32000, 290, 1.5]),
  stepper('stepper-42-geared', 'stepper, 42 mm frame, 5.18 : 1 gearbox', 1036, [2, 32000, 460, 1.5]),
  stepper('stepper-57', 'stepper, 57 mm frame, 56 mm long', 200, [1.2, 25000, 680, 2.8]),
  counted('dc-25', 'gear motor with encoder, 25 mm', [0.9, 600, 100, 2248], [0.05, 0.4, 2.2]),
  counted('dc-37', 'gear motor with encoder, 37 mm', [1.8, 900, 215, 1920], [0.1, 0.8, 5]),
];

/** The motor that a kind begins with. */
const beginnings: Record<Drive['kind'], string> = {
  servo: 'servo-45',
  'continuous-servo': 'continuous-45',
  'bus-servo': 'bus-55',
  stepper: 'stepper-42',
  'dc-encoder': 'dc-25',
};
export const firstOfKind = (kind: Drive['kind']): DriveFigures =>
  catalogue.find((entry) => entry.id === beginnings[kind])!.figures;
