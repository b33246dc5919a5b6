/** Findings about motors and wiring that hold for the rig as it stands, whatever routine is run. */
import { finding, type Finding } from '../contract/finding';
import { limitsOf, type Build, type Rig } from '../rig';
import type { Mechanism } from '../mechanism';
import { DEG_PER_RAD } from '../units/convert';
import { driveMaps, shaftAt, shaftSpeed } from './drive-map';
import { exactNative, nativeOf, stepsPerDeg } from './native';
import { fromUs, servoMaps, toUs } from './servo-map';

export function checkDrives(rig: Rig, mechanism: Mechanism, build: Build): Finding[] {
  const maps = servoMaps(rig, mechanism, build);
  const driven = new Set(rig.transmissions.flatMap((transmission): string[] => [...transmission.joints]));
  const found: Finding[] = [];
  for (const joint of rig.mechanism.joints)
    if (mechanism.slotOf.has(joint.id) && !driven.has(joint.id))
      found.push(
        finding('joint-without-motor', { station: 'motors', joint: joint.id }, { joint: joint.name ?? joint.id }),
      );
  const taken = new Map<string, string>();
  for (const map of maps) {
    const place = { station: 'motors' as const, joint: map.jointId, drive: map.driveId };
    if (map.channel === null) found.push(finding('motor-unwired', place, { drive: map.driveName }));
    else {
      const board = rig.boards.find((b) => b.id === map.board)!;
      if (map.channel >= board.channels)
        found.push(
          finding('channel-missing', place, { drive: map.driveName, channel: map.channel, last: board.channels - 1 }),
        );
      const key = `${map.board}/${map.channel}`;
      const first = taken.get(key);
      if (first !== undefined)
        found.push(finding('channel-twice', place, { first, second: map.driveName, channel: map.channel }));
      else taken.set(key, map.driveName);
    }
    if (!map.calibrated) found.push(finding('uncalibrated', place, { drive: map.driveName }));
    const joint = rig.mechanism.joints.find((j) => j.id === map.jointId)!;
    if (joint.type === 'fixed') continue;
    const limits = limitsOf(joint);
    const unit = mechanism.units[mechanism.index.get(map.jointId)!];
    for (const end of ['min', 'max'] as const) {
      const q = (end === 'min' ? mechanism.lower : mechanism.upper)[map.slot];
      if (!Number.isFinite(q)) continue;
      const us = toUs(map, q);
      if (us < map.drive.minUs - 0.5 || us > map.drive.maxUs + 0.5)
        found.push(
          finding('pulse-over-limit', place, {
            joint: joint.name ?? joint.id,
            value: us,
            at: limits[end],
            unit,
            min: map.drive.minUs,
            max: map.drive.maxUs,
          }),
        );
    }
  }
  return [...found, ...checkOthers(rig, mechanism, build)];
}

/** The same for motors that are no plain servos: their own range, their linkage, their bus, their step rate. */
function checkOthers(rig: Rig, mechanism: Mechanism, build: Build): Finding[] {
  const found: Finding[] = [];
  const plain = new Set(servoMaps(rig, mechanism, build).map((map) => map.driveId));
  const addresses = new Map<string, string>();
  for (const map of driveMaps(rig, mechanism, build)) {
    const { drive, slots } = map;
    const slot = slots[Math.min(map.index, slots.length - 1)];
    const j = mechanism.jointOfSlot[slot];
    const [joint, unit] = [mechanism.names[j], mechanism.units[j]];
    const place = { station: 'motors' as const, joint: mechanism.ids[j], drive: drive.id };
    if (drive.kind === 'bus-servo') {
      const key = `${map.board}/${drive.address}`;
      const first = addresses.get(key);
      if (first !== undefined)
        found.push(finding('address-twice', place, { first, second: drive.name, address: drive.address }));
      else addresses.set(key, drive.name);
    }
    if (plain.has(drive.id)) continue;
    found.push(finding('drive-not-live', place, { drive: drive.name }));
    if (slots.length > 1) continue;
    const unlimited = nativeOf(drive, build)!;
    for (const q of [mechanism.lower[slot], mechanism.upper[slot]]) {
      if (!Number.isFinite(q)) continue;
      const at = q / mechanism.siPerUnit[slot];
      const pose = mechanism.home.slice();
      pose[slot] = q;
      const shaft = shaftAt(map, mechanism, pose);
      if (shaft === null) {
        found.push(finding('linkage-short', place, { joint, at, unit }));
        continue;
      }
      const value = exactNative(unlimited, shaft);
      if (value < unlimited.low - 0.5 || value > unlimited.high + 0.5)
        found.push(
          finding('count-over-limit', place, {
            joint,
            value,
            at,
            unit: unlimited.unit,
            min: unlimited.low,
            max: unlimited.high,
          }),
        );
    }
    if (drive.kind !== 'stepper') continue;
    const speeds = new Float64Array(mechanism.m);
    speeds[slot] = mechanism.speed[slot];
    const wanted = shaftSpeed(map, mechanism, mechanism.home, speeds);
    if (!wanted || wanted.share <= 1 + 1e-9) continue;
    const value = Math.abs(wanted.degPerS) * stepsPerDeg(drive);
    const speed = mechanism.speed[slot] / mechanism.siPerUnit[slot] / wanted.share;
    found.push(
      finding('step-rate-over', place, {
        joint,
        value,
        drive: drive.name,
        max: drive.maxStepHz,
        speed,
        unit: unit === 'mm' ? 'mm/s' : '°/s',
      }),
    );
  }
  return found;
}

/** Degrees of the joint per µs, and per tick of a 12-bit frame at the drive's rate; for reading. */
export function resolutionOf(
  map: ReturnType<typeof servoMaps>[number],
  siPerUnit: number,
): { perUs: number; perTick: number } {
  const perUs = Math.abs((fromUs(map, 1) - fromUs(map, 0)) / siPerUnit);
  return { perUs, perTick: perUs * (1e6 / map.drive.updateHz / 4096) };
}

/** °/s of a speed in SI (rad/s), mm/s of one in m/s. */
export const speedForReading = (si: number, unit: '°' | 'mm'): number =>
  unit === 'mm' ? si * 1000 : si * DEG_PER_RAD;
