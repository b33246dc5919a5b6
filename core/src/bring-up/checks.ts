/** Findings about motors that hold for the rig as it stands, whatever routine is run. Those about wires are in wiring-checks. */
import type { Finding, Place } from '../findings';
import { finding } from './findings';
import { wiringFindings } from '../wiring';
import type { Build, Rig } from '../rig';
import { inUnit, type Mechanism } from '../mechanism';
import { DEG_PER_RAD } from '../units/convert';
import { driveMaps, shaftAt, shaftSpeed, type DriveMap } from '../actuators/drive-map';
import { exactNative, nativeOf, stepsPerDeg } from '../actuators/native';
import { checkLeaders } from '../calibration/leader';
import { atPower, neutralJoints } from './power-up';
import { jointSpeedMeant, spinMaps, type SpinMap } from '../actuators/spin-map';
import { ownSlot, type TiedDrive } from '../actuators/tied';
import { checkWiring } from '../wiring/checks';

export function checkDrives(rig: Rig, mechanism: Mechanism, build: Build): Finding[] {
  const maps = driveMaps(rig, mechanism, build);
  return [
    ...jointsWithout(rig, mechanism),
    ...maps.flatMap((map) => checkMap(map, mechanism, build)),
    ...spinMaps(rig, mechanism, build).flatMap((map) => checkSpin(map, mechanism)),
    ...neutralPast(rig, mechanism, maps),
    ...checkWiring(rig, mechanism, maps),
    ...checkLeaders(rig, mechanism),
  ];
}

function jointsWithout(rig: Rig, mechanism: Mechanism): Finding[] {
  const driven = new Set(rig.transmissions.flatMap((transmission): string[] => [...transmission.joints]));
  return mechanism.slotIds.flatMap((id, slot) =>
    driven.has(id)
      ? []
      : [
          finding(
            'joint-without-motor',
            { station: 'motors', joint: id },
            { joint: mechanism.names[mechanism.jointOfSlot[slot]] },
          ),
        ],
  );
}

/** Where a map is, for a finding: the joint its drive has first. */
export function placeOf(map: TiedDrive, mechanism: Mechanism): Extract<Place, { station: 'motors' }> {
  const slot = ownSlot(map);
  return { station: 'motors', joint: mechanism.ids[mechanism.jointOfSlot[slot]], drive: map.drive.id };
}

function checkMap(map: DriveMap, mechanism: Mechanism, build: Build): Finding[] {
  const { drive, slots } = map;
  const place = placeOf(map, mechanism);
  const found: Finding[] = [];
  if (map.channel === null) found.push(wiringFindings.finding('motor-unwired', place, { drive: drive.name }));
  if (drive.kind === 'servo' && !map.calibrated) found.push(finding('uncalibrated', place, { drive: drive.name }));
  if (slots.length > 1) return found;
  const [slot] = slots;
  const j = mechanism.jointOfSlot[slot];
  const [joint, unit] = [mechanism.names[j], mechanism.units[j]];
  const own = nativeOf(drive, build)!;
  for (const q of [mechanism.lower[slot], mechanism.upper[slot]]) {
    if (!Number.isFinite(q)) continue;
    const at = inUnit(mechanism, slot, q);
    const pose = mechanism.home.slice();
    pose[slot] = q;
    const shaft = shaftAt(map, mechanism, pose);
    if (shaft === null) {
      found.push(finding('linkage-short', place, { joint, at, unit }));
      continue;
    }
    const value = exactNative(own, shaft);
    if (value >= own.low - 0.5 && value <= own.high + 0.5) continue;
    found.push(
      drive.kind === 'servo'
        ? finding('pulse-over-limit', place, { joint, value, at, unit, min: drive.minUs, max: drive.maxUs })
        : finding('count-over-limit', place, { joint, value, at, unit: own.unit, min: own.low, max: own.high }),
    );
  }
  if (drive.kind !== 'stepper') return found;
  const speeds = new Float64Array(mechanism.m);
  speeds[slot] = mechanism.speed[slot];
  const wanted = shaftSpeed(map, mechanism, mechanism.home, speeds);
  if (!wanted || wanted.share <= 1 + 1e-9) return found;
  found.push(
    wiringFindings.finding('step-rate-over', place, {
      joint,
      value: Math.abs(wanted.degPerS) * stepsPerDeg(drive),
      drive: drive.name,
      max: drive.maxStepHz,
      speed: inUnit(mechanism, slot, mechanism.speed[slot]) / wanted.share,
      unit: unit === 'mm' ? 'mm/s' : '°/s',
    }),
  );
  return found;
}

/** Servos that without a pulse, or with the one of their middle, take their joint past its limits. */
function neutralPast(rig: Rig, mechanism: Mechanism, maps: readonly DriveMap[]): Finding[] {
  return maps.flatMap((map): Finding[] => {
    if (map.drive.kind !== 'servo' || map.slots.length > 1 || atPower(rig, map.drive) !== 'neutral') return [];
    const [slot] = map.slots;
    const home = [mechanism.home[slot]];
    const [at] = neutralJoints([map], mechanism, home, false);
    // By less than half a unit is the rounding of a pulse.
    const past = Math.max(mechanism.lower[slot] - at, at - mechanism.upper[slot]) / mechanism.siPerUnit[slot];
    if (!(past > 0.5)) return [];
    const j = mechanism.jointOfSlot[slot];
    const limit = at < mechanism.lower[slot] ? mechanism.lower[slot] : mechanism.upper[slot];
    return [
      finding(
        'neutral-past-limit',
        { ...placeOf(map, mechanism), part: 'power-up' },
        {
          drive: map.drive.name,
          joint: mechanism.names[j],
          at: inUnit(mechanism, slot, at),
          limit: inUnit(mechanism, slot, limit),
          unit: mechanism.units[j],
        },
      ),
    ];
  });
}

/** A motor that is sent speeds: on a pin, its stop measured, and as fast as its joint may be. */
function checkSpin(map: SpinMap, mechanism: Mechanism): Finding[] {
  const place = placeOf(map, mechanism);
  const found: Finding[] = [];
  if (map.channel === null) found.push(wiringFindings.finding('motor-unwired', place, { drive: map.drive.name }));
  if (!map.calibrated) found.push(finding('stop-unmeasured', place, { drive: map.drive.name }));
  if (map.slots.length > 1) return found;
  const [slot] = map.slots;
  const j = mechanism.jointOfSlot[slot];
  // What the pulses reach the faster way round is what the joint's limit has to be held against the slower way.
  const most = Math.min(
    ...[map.low, map.high].map((us) => Math.abs(jointSpeedMeant(map, mechanism, mechanism.home, us) ?? Infinity)),
  );
  const speed = inUnit(mechanism, slot, mechanism.speed[slot]);
  // One whole pulse less is not slower.
  const pulse = Math.abs(jointSpeedMeant(map, mechanism, mechanism.home, map.stopUs + 1) ?? 0);
  if (most < speed - pulse)
    found.push(
      wiringFindings.finding('spin-past-motor', place, {
        joint: mechanism.names[j],
        speed,
        drive: map.drive.name,
        most,
        unit: mechanism.units[j] === 'mm' ? 'mm/s' : '°/s',
      }),
    );
  return found;
}

/** °/s of a speed in SI (rad/s), mm/s of one in m/s. */
export const speedForReading = (si: number, unit: '°' | 'mm'): number =>
  unit === 'mm' ? si * 1000 : si * DEG_PER_RAD;
