/** What a board runs: generated sources of firmware. */
export { delayWords, linkBudget, type LinkBudget } from './budget';
export { DISPLAY_ADDRESSES, type Display } from './display';
export {
  describe,
  fullCountsPerS,
  pinsOf,
  type Described,
  type FirmwareMotor,
  type FirmwareSignal,
} from './described';
export { followings, handControlOf, KNOB_PLACES, type HandControl } from './knobs';
export { brokenAt, toolOf, type NoSteering, type Push } from './steering';
export { registersOf, type Registers } from './registers';
export { BAUD, driverDivider, ticksPerMs } from './data';
export { sources, type FirmwareFile } from './sources';
export { scriptOf } from './script';
export { stepsOf, type NoSteps, type Steps, type StepsChoice } from './steps';
export { lawOf, piecesOf, shareAt } from './pieces';
export { tableOf, type Start, type Switching, type Table, type TableChoice } from './table';
export { busyAs, busyPercent, sizeOf, SMALL_MEMORY, tableRoom, type Size } from './room';
export { watchesOf, type Watch } from './watches';
export type { Work } from './work';
