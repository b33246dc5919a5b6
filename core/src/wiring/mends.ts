/**
 * What mends a finding about motors and wires by an edit of the plan: another pin, another address, a limit. What only the bench can
 * show (a level, a resistor, a joined ground) has none.
 */
import type { Finding } from '../findings';
import type { wiringFindings } from './findings';
import { isMoving, limitsOf, type Ability, type Board, type Fix, type Pin, type Rig } from '../rig';
import { freePins, placeWire, sensorJobs, signalJobs } from './place-wire';
import { furtherPins, missingTracks, pinJobs, roleJobs } from './wire-pins';
import { bootLevel } from './checks';

type Mend = (rig: Rig, finding: Finding) => Fix | null;

/** What a finding's place is about, as something that can be put on another pin. */
interface Moved {
  readonly board: Board | undefined;
  readonly any: readonly Ability[];
  /** Lines of a bus may be shared. */
  readonly shares: boolean;
  put(draft: Rig, board: string, pin: number): void;
}
const byId = <T extends { readonly id: string }>(list: readonly T[], id: string | undefined): T | undefined =>
  list.find((item) => item.id === id);

function movedOf(rig: Rig, { place }: Finding): Moved | null {
  const { drive, item, role } = place;
  if (drive !== undefined) {
    const wire = rig.wiring.find((w) => w.drive === drive);
    const motor = byId(rig.drives, drive);
    if (!wire || !motor) return null;
    const { any } = role ? roleJobs[role] : pinJobs[motor.kind];
    return {
      board: byId(rig.boards, wire.board),
      any,
      shares: any.every((a) => a === 'serial'),
      put(draft, board, pin) {
        const own = draft.wiring.find((w) => w.drive === drive)!;
        own.board = board;
        own[role ?? 'channel'] = pin;
      },
    };
  }
  const signal = byId(rig.signals, item);
  if (signal)
    return {
      board: byId(rig.boards, signal.board ?? undefined),
      any: signalJobs(signal),
      shares: false,
      put: (draft, board, pin) => void Object.assign(byId(draft.signals, item)!, { board, channel: pin }),
    };
  const sensor = byId(rig.sensors, item);
  if (!sensor) return null;
  return {
    board: byId(rig.boards, sensor.board ?? undefined),
    any: sensorJobs(sensor),
    shares: sensor.address !== null,
    put: (draft, board, pin) => void Object.assign(byId(draft.sensors, item)!, { board, channel: pin }),
  };
}

/** To the best free pin of its own board, else of another; the wires of one motor stay on one board. */
function another(rig: Rig, finding: Finding, fits: (pin: Pin) => boolean = () => true): Fix | null {
  const moved = movedOf(rig, finding);
  if (!moved) return null;
  const wire = rig.wiring.find((w) => w.drive === finding.place.drive);
  const isTied = wire !== undefined && furtherPins(wire).length > 0;
  const others = isTied ? [] : rig.boards.filter((b) => b !== moved.board);
  for (const board of [...(moved.board ? [moved.board] : []), ...others]) {
    const pin = freePins(rig, board, moved.any, moved.shares).find((p) => fits(p) && !turnsOn(rig, finding, p));
    if (pin)
      return {
        label: board === moved.board ? `Take pin ${pin.label}` : `Take pin ${pin.label} of ${board.name}`,
        apply: (draft) => moved.put(draft, board.id, pin.pin),
      };
  }
  return null;
}
/** Whether an output would be on from power-up until the program runs. */
function turnsOn(rig: Rig, { place }: Finding, pin: Pin): boolean {
  const signal = byId(rig.signals, place.item);
  if (signal?.way !== 'out' || signal.activeLow === null) return false;
  return bootLevel(pin, signal.pull) === (signal.activeLow ? 'low' : 'high');
}
const anotherPin: Mend = (rig, finding) => another(rig, finding);

/** A pin that holds the output off until the program runs. */
const quietPin: Mend = (rig, finding) => {
  const signal = byId(rig.signals, finding.place.item);
  if (!signal || signal.activeLow === null) return null;
  const off = signal.activeLow ? 'high' : 'low';
  return another(rig, finding, (pin) => bootLevel(pin, signal.pull) === off);
};

/** Lowers the speed of the joint that the finding names to what it says is allowed. */
const slowerJoint =
  (key: 'speed' | 'most'): Mend =>
  (rig, { place, data }) => {
    const value = data[key];
    const joint = rig.mechanism.joints.find((j) => j.id === place.joint);
    if (typeof value !== 'number' || !joint || !isMoving(joint) || value < 0.1) return null;
    const speed = Math.floor(value * 10) / 10;
    return {
      label: `Let it turn at ${speed} ${joint.type === 'prismatic' ? 'mm/s' : '°/s'}`,
      apply(draft) {
        const own = draft.mechanism.joints.find((j) => j.id === place.joint);
        if (own && isMoving(own)) own.limits = { ...own.limits, maxSpeed: speed } as typeof own.limits;
      },
    };
  };

/** The lowest address of a two-wire bus, and of a bus of servos, that nothing on it has. */
const freeAddress: Mend = (rig, { place }) => {
  const motor = byId(rig.drives, place.drive);
  const free = (taken: readonly number[], from: number): number => {
    let n = from;
    while (taken.includes(n)) n++;
    return n;
  };
  if (motor?.kind === 'bus-servo') {
    const wire = rig.wiring.find((w) => w.drive === motor.id);
    const taken = rig.wiring.flatMap((w) => {
      const d = byId(rig.drives, w.drive);
      return w.board === wire?.board && w.channel === wire.channel && d?.kind === 'bus-servo' ? [d.address] : [];
    });
    const address = free(taken, 1);
    return address > 253
      ? null
      : {
          label: `Give it address ${address}`,
          apply(draft) {
            const d = byId(draft.drives, motor.id);
            if (d?.kind === 'bus-servo') d.address = address;
          },
        };
  }
  const board = byId(rig.boards, place.item);
  const sensor = byId(rig.sensors, place.item);
  const host = board?.host ?? sensor?.board;
  if (host === null || host === undefined) return null;
  const taken = [
    ...rig.boards.filter((b) => b.host === host).map((b) => b.address),
    ...rig.sensors.filter((s) => s.board === host).map((s) => s.address),
  ].flatMap((a) => (a === null ? [] : [a]));
  const address = free(taken, (board ?? sensor)!.address! + 1);
  // Addresses from 0x78 on are the bus's own.
  return address > 0x77
    ? null
    : {
        label: `Give it address ${address} (0x${address.toString(16)})`,
        apply(draft) {
          const own = byId(draft.boards, place.item) ?? byId(draft.sensors, place.item);
          if (own) own.address = address;
        },
      };
};

/** Free pins of its board for the tracks that are on none. */
const counterPins: Mend = (rig, { place }) => {
  const wire = rig.wiring.find((w) => w.drive === place.drive);
  const board = byId(rig.boards, wire?.board);
  if (!wire || !board) return null;
  const missing = missingTracks(wire);
  const pins = freePins(rig, board, roleJobs.firstTrack.any).slice(0, missing.length);
  if (pins.length < missing.length) return null;
  return {
    label: `Put it on ${pins.length > 1 ? 'pins' : 'pin'} ${pins.map(({ label }) => label).join(' and ')}`,
    apply(draft) {
      const own = draft.wiring.find((w) => w.drive === place.drive)!;
      missing.forEach((role, k) => (own[role] = pins[k].pin));
    },
  };
};

const pulseRate: Mend = (rig, { place, data }) => {
  const hz = typeof data.most === 'number' ? data.most : typeof data.slow === 'number' ? data.slow : null;
  if (hz === null || !byId(rig.drives, place.drive)) return null;
  return {
    label: `Take ${hz} pulses a second`,
    apply(draft) {
      const own = byId(draft.drives, place.drive);
      if (own && 'updateHz' in own) own.updateHz = hz;
    },
  };
};

const mends: Partial<Record<keyof typeof wiringFindings.entries, Mend>> = {
  'motor-unwired': (rig, { place }) => {
    const motor = byId(rig.drives, place.drive);
    const tried = structuredClone(rig) as Rig;
    if (!motor) return null;
    placeWire(tried, motor);
    const wire = tried.wiring.find((w) => w.drive === motor.id);
    const pin = byId(tried.boards, wire?.board)?.pins.find((p) => p.pin === wire?.channel);
    return wire && pin
      ? { label: `Put it on pin ${pin.label}`, apply: (draft) => placeWire(draft, byId(draft.drives, motor.id)!) }
      : null;
  },
  'counter-unwired': counterPins,
  'channel-missing': anotherPin,
  'channel-twice': anotherPin,
  'pin-unable': anotherPin,
  'pin-reserved': anotherPin,
  'pin-boot': anotherPin,
  'pin-jitters': (rig, finding) => another(rig, finding, (pin) => pin.can.includes('pulse')),
  'signal-unwired': anotherPin,
  'output-boot-on': quietPin,
  'output-boot-unknown': quietPin,
  'address-twice': freeAddress,
  'board-without-host': (rig, { place }) => {
    const host = rig.boards.find(
      (b) => b.host === null && b.id !== place.item && b.pins.some((p) => p.can.includes('bus')),
    );
    return (
      (host && {
        label: `Hang it on ${host.name}`,
        apply: (draft) => void Object.assign(byId(draft.boards, place.item) ?? {}, { host: host.id }),
      }) ??
      null
    );
  },
  'rail-missing': (rig, { place }) => {
    if (rig.rails.length !== 1) return null;
    const [rail] = rig.rails;
    return {
      label: `Feed it from ${rail.name}`,
      apply(draft) {
        const wire = draft.wiring.find((w) => w.drive === place.drive);
        if (wire) wire.rail = rail.id;
      },
    };
  },
  'pulse-rate-over': pulseRate,
  'pulse-rates-differ': pulseRate,
  'step-rate-over': slowerJoint('speed'),
  'steps-over-ceiling': (rig, { place, data }) => {
    const share = Math.floor((1000 * Number(data.most)) / Number(data.wanted)) / 1000;
    const board = byId(rig.boards, place.item);
    if (!board || !(share > 0.02)) return null;
    const on = new Set(rig.wiring.filter((w) => w.board === board.id).map((w) => w.drive));
    const steppers = rig.drives.filter((d) => d.kind === 'stepper' && on.has(d.id)).map((d) => d.id);
    const ties = rig.transmissions.filter((t) => t.drives.some((id) => steppers.includes(id)));
    const joints = new Set(ties.flatMap((t): string[] => [...t.joints]));
    return {
      label: `Slow its joints to ${Math.floor(share * 1000) / 10} %`,
      apply(draft) {
        for (const joint of draft.mechanism.joints)
          if (joints.has(joint.id) && isMoving(joint))
            joint.limits = { ...joint.limits, maxSpeed: limitsOf(joint).maxSpeed * share } as typeof joint.limits;
      },
    };
  },
  'spin-past-motor': slowerJoint('most'),
  'loop-over': (rig, { place, data }) => {
    // Steps fall due all the time: what is left of a round beside them has to hold the rest.
    const [every, reads, maths, steps] = ['every', 'reads', 'maths', 'steps'].map((name) => Number(data[name]));
    const left = 1 - steps / every;
    if (!byId(rig.boards, place.item) || !(left > 0.1)) return null;
    const everyMs = Math.ceil(((reads + maths) / left) * 1.1);
    return {
      label: `Make a round ${everyMs} ms`,
      apply: (draft) => void (byId(draft.boards, place.item)!.loop.everyMs = everyMs),
    };
  },
};
/** By code of the finding. */
export const wiringMends: Readonly<Record<string, Mend | undefined>> = mends;
