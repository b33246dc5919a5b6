/**
 * How set points become what motors are told: along the planned motion, through a first-order low pass, or each step's target at once.
 * The result is a motion like any other, so that the table, the preview, the checks and a live run ask the same one.
 */
import { isSpin, resolutionAt, type CommandMap } from '../actuators';
import { fromUnit, inUnit, type Mechanism } from '../mechanism';
import { lastBegun, LowPass, settlingOf, type Motion, type SteppedMotion } from '../motion';
import type { MotionChoice } from '../rig';

/** A low pass goes on after the end until its joints are this near (document units) to where they are to be. */
const SETTLED = 0.05;

/**
 * What motors are told over a motion. `lateS`: how long (s) a low pass goes on after the motion's end; left out: until it has all but
 * settled. Slots that are sent speeds keep the planned ones: a low pass is one of places.
 */
export function commandedMotion(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  motion: SteppedMotion,
  choice: MotionChoice,
  lateS?: number,
): Motion {
  if (choice.school === 'planned' || !motion.stretches.length) return motion;
  const isSpun = spunSlots(mechanism, maps);
  const placed = Array.from({ length: mechanism.m }, (_, s) => s).filter((s) => !isSpun[s]);
  if (choice.school === 'jump')
    return {
      durationS: motion.durationS,
      start: motion.start,
      sampleInto(position, speed, accel, t) {
        motion.sampleInto(position, speed, accel, t);
        const { to } = motion.stretches[lastBegun(motion.stretches, t)];
        for (const s of placed) {
          position[s] = t < 0 ? motion.start[s] : to[s];
          speed[s] = accel[s] = 0;
        }
      },
    };
  const loops = new Loops(mechanism, maps, motion, choice);
  const left = loops.leftAt(motion.durationS);
  const off = Math.max(0, ...placed.map((s) => inUnit(mechanism, s, Math.abs(left[s]))));
  const durationS = motion.durationS + (lateS ?? settlingOf(choice.timeConstantS, off, SETTLED));
  return {
    durationS,
    start: motion.start,
    sampleInto(position, speed, accel, t) {
      motion.sampleInto(position, speed, accel, t);
      const { value, target } = loops.at(Math.min(t, durationS));
      const moves = t >= 0 && t < durationS ? 1 / choice.timeConstantS : 0;
      for (const s of placed) {
        position[s] = value[s];
        // Of the smooth curve that the loops step along.
        speed[s] = moves && (target[s] - value[s]) * moves;
        accel[s] = moves && -speed[s] * moves;
      }
    },
  };
}

/** The board's loops over a motion: at t = k·h each takes the target of then; before the first nothing has moved. */
class Loops {
  /** Number of the first loop of each stretch, and the values before it; known as far as was asked. */
  private readonly first: number[];
  private readonly before: Float64Array[];
  private readonly loopS: number;

  constructor(
    mechanism: Mechanism,
    maps: readonly CommandMap[],
    private readonly motion: SteppedMotion,
    private readonly choice: MotionChoice,
  ) {
    this.loopS = choice.loopMs / 1000;
    this.first = motion.stretches.map(({ startS }, i) => (i === 0 ? 0 : Math.ceil(startS / this.loopS - 1e-9)));
    this.before = [motion.start];
    this.countsPer = countsPer(mechanism, maps, choice.wholePer);
  }
  private readonly countsPer: readonly number[] | null;

  private from(value: Float64Array, target: Float64Array, loops: number): Float64Array {
    const pass = new LowPass(value, this.choice.timeConstantS, this.loopS, this.countsPer);
    pass.advance(target, loops);
    return pass.value;
  }

  /** Where the joints are told to be at `t`, and what the loop under way is after. */
  at(t: number): { value: Float64Array; target: Float64Array } {
    const { stretches } = this.motion;
    const done = Math.max(0, Math.floor(t / this.loopS + 1e-9));
    // The stretch of the last loop that is done.
    let i = lastBegun(stretches, (done - 1) * this.loopS + 1e-9);
    while (i > 0 && this.first[i] > done) i--;
    for (let k = this.before.length; k <= i; k++)
      this.before.push(this.from(this.before[k - 1], stretches[k - 1].to, this.first[k] - this.first[k - 1]));
    const value = this.from(this.before[i], stretches[i].to, done - this.first[i]);
    return { value, target: stretches[lastBegun(stretches, t)].to };
  }

  leftAt(t: number): Float64Array {
    const { value, target } = this.at(t);
    return target.map((v, s) => v - value[s]);
  }
}

/** Which slots no motor moves to places. */
function spunSlots(mechanism: Mechanism, maps: readonly CommandMap[]): readonly boolean[] {
  const [places, spins] = [new Set<number>(), new Set<number>()];
  for (const map of maps) for (const slot of map.slots) (isSpin(map) ? spins : places).add(slot);
  return Array.from({ length: mechanism.m }, (_, s) => spins.has(s) && !places.has(s));
}

/** Counts of the board per unit of each slot (SI), where it reckons in whole numbers. */
function countsPer(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  wholePer: number | null,
): readonly number[] | null {
  if (wholePer === null) return null;
  const per = Array.from<number>({ length: mechanism.m }).fill(0);
  for (const map of maps) {
    if (isSpin(map)) continue;
    resolutionAt(map, mechanism, mechanism.home)?.forEach((unit, k) => {
      const slot = map.slots[k];
      if (unit > 0) per[slot] = Math.max(per[slot], wholePer / fromUnit(mechanism, slot, unit));
    });
  }
  return per.map((counts) => counts || 1e6);
}
