/** What planned motion asks of the motors: speed, fineness, rattling. The same block is looked at once. */
import type { RoutineSaying } from './findings';
import { hasConstantRatio, resolutionAt, shaftSpeed, type DriveMap } from '../actuators';
import { speedForReading } from '../bring-up';
import { inUnit, type Mechanism } from '../mechanism';
import { pathInto, sampleBlockInto, type Block } from '../motion';

/** Of a motor along a block; which step it is is known later. */
export type DriveProblem = RoutineSaying<'step'> & { readonly joint: string; readonly drive: string };

/** Looks within a block. */
const LOOKS = 40;
/** A motor that stays this long (s) in a band rattles audibly. */
const RATTLES = 0.15;
/** Moves shorter than this many dead bands, or than this (s), are not seen to stutter; nor is what gains more than this share of one. */
const SEEN = 4;
const SLOW = 4;
const SHARE = 0.5;

/** Places of a path that its pace is compared at, and the share of its middle pace below which it slows. */
const PLACES = 60;
const SLOWS = 0.35;

/** Where a path of the tool must slow because a joint cannot follow: the joint, how far, and when. */
export function slowPlace(
  mechanism: Mechanism,
  block: Block,
): { readonly slot: number; readonly share: number; readonly atS: number } | null {
  if (block.kind !== 'path' || block.curve.kind !== 'retimed') return null;
  const { path, curve, stretch } = block;
  const d = new Float64Array(4 * path.m);
  // The pace along σ that each joint's speed alone allows; σ runs evenly along the tool's way.
  const allowed = Array.from({ length: PLACES }, (_, k) => {
    pathInto(d, path, (k + 0.5) / PLACES);
    let [most, slot] = [Infinity, -1];
    for (let s = 0; s < path.m; s++) {
      const v = mechanism.speed[s] / Math.abs(d[4 * s + 1]);
      if (v < most) [most, slot] = [v, s];
    }
    return { most, slot };
  });
  const middle = [...allowed].sort((a, b) => a.most - b.most)[PLACES >> 1].most;
  const worst = allowed.reduce((a, b) => (b.most < a.most ? b : a));
  if (worst.most > SLOWS * middle) return null;
  const at = curve.s.findIndex((s) => s >= (allowed.indexOf(worst) + 0.5) / PLACES);
  return {
    slot: worst.slot,
    share: worst.most / middle,
    atS: (curve.t[Math.max(0, at)] + curve.window / 2) * stretch,
  };
}

export function driveCheck(mechanism: Mechanism, maps: readonly DriveMap[]): (block: Block) => DriveProblem[] {
  const done = new WeakMap<Block, DriveProblem[]>();
  const [p, v, a] = [0, 1, 2].map(() => new Float64Array(mechanism.m));
  return (block) => {
    const before = done.get(block);
    if (before) return before;
    const found: DriveProblem[] = [];
    done.set(block, found);
    // A jump is a fault of its own.
    if (block.kind === 'hold' || ('curve' in block && block.curve.kind === 'jump')) return found;
    const slow: { joint: string; drive: string; name: string; gains: number }[] = [];
    const looks = maps.map(() => ({ asked: 0, speeds: v, rattling: 0, fastest: 0 }));
    for (let k = 1; k < LOOKS; k++) {
      sampleBlockInto(p, v, a, block, (block.duration * k) / LOOKS);
      maps.forEach((map, i) => {
        const speed = shaftSpeed(map, mechanism, p, v);
        if (!speed) return;
        if (speed.share > looks[i].asked) Object.assign(looks[i], { asked: speed.share, speeds: v.slice() });
        const shaft = Math.abs(speed.degPerS);
        looks[i].fastest = Math.max(looks[i].fastest, shaft);
        if (map.drive.rattles?.some((band) => shaft >= band.fromDegPerS && shaft <= band.toDegPerS))
          looks[i].rattling += block.duration / LOOKS;
      });
    }
    maps.forEach((map, i) => {
      const { asked, speeds, rattling, fastest } = looks[i];
      const slot = map.slots.find((s) => speeds[s] !== 0) ?? map.slots[0];
      const joint = mechanism.jointOfSlot[slot];
      const unit = mechanism.units[joint];
      const wanted = Math.abs(speeds[slot]);
      const where = { joint: mechanism.ids[joint], drive: map.drive.id };
      const name = mechanism.names[joint];
      if (asked > 1 + 1e-9)
        found.push({
          ...where,
          code: 'drive-too-slow',
          data: {
            joint: name,
            value: speedForReading(wanted, unit),
            limit: speedForReading(wanted / asked, unit),
          },
        });
      if (rattling > RATTLES)
        found.push({ ...where, code: 'drive-rattles', data: { joint: name, seconds: rattling } });
      const gains = gainAPulse(map, mechanism, block, fastest);
      if (gains !== null) slow.push({ ...where, name, gains });
    });
    if (slow.length) {
      const { joint, drive } = slow[0];
      const names = slow.map(({ name }) => name).join(', ');
      const us = Math.min(...slow.map(({ gains }) => gains));
      found.push({ code: 'drive-stutters', joint, drive, data: { joint: names, us } });
    }
    return found;
  };
}

/** What a command gains (µs) from one pulse to the next, where that is less than the motor stirs for: it goes in jerks. */
function gainAPulse(map: DriveMap, mechanism: Mechanism, block: Block, fastest: number): number | null {
  const { drive } = map;
  if (!('deadBandUs' in drive) || !(drive.deadBandUs > 0) || !hasConstantRatio(map) || fastest === 0) return null;
  const [perUnit] = resolutionAt(map, mechanism, mechanism.home) ?? [];
  if (!perUnit) return null;
  const slot = map.slots[0];
  const counts = inUnit(mechanism, slot, Math.abs(block.to[slot] - block.from[slot])) / perUnit;
  const gains = (fastest * Math.abs(map.native.perDeg)) / drive.updateHz;
  const seen = block.duration >= SLOW && counts >= SEEN * drive.deadBandUs && gains < SHARE * drive.deadBandUs;
  return seen ? gains : null;
}
