/**
 * Motors that a routine lets go and takes hold of again on its way. The run stands for both: a motor goes off once it has come to where it
 * was sent; one that comes on holds where it is read back (else where it was sent last) and then goes gently to where the plan has it.
 */
import { isSpin, type CommandMap } from '@cork-elbow/core/actuators';
import type { Channels, Values } from '@cork-elbow/core/commands';
import { PERIOD } from '../pacer';

/** A step that lets joints (ids) go, or holds them. */
export interface PowerStep {
  readonly joints: readonly string[];
  readonly on: boolean;
}
/** Where a motor comes back from, and in how long (ms). */
interface Way {
  readonly from: number;
  readonly ms: number;
}

export class LetGo {
  /** Slots of joints that are let go, and their motors (drive ids) that are off. */
  private readonly loose = new Set<number>();
  private readonly off = new Set<string>();
  private ways = new Map<string, Way>();
  /** For how long (ms) the step under way has held the run; null while none does. */
  private heldMs: number | null = null;
  private waking: CommandMap[] = [];
  private limping: CommandMap[] = [];

  constructor(
    private readonly channels: Channels,
    /** Where a motor stands as far as anybody knows, by its drive; in its native unit. */
    private readonly stands: (drive: string) => number | undefined,
    /** Degrees a second of a motor's shaft that are gentle. */
    private readonly gentle: number,
    /** For how long (ms) motors are on their way to where they were sent last. */
    private readonly arrivesMs: number,
  ) {}

  /** A period goes by with this step under way; whether it is done, and the run goes on. */
  pass({ joints, on }: PowerStep): boolean {
    // What was let go a moment ago is told so before anything holds again.
    if (this.limping.length) return false;
    // What follows another joint has no motor of its own.
    const slots = joints.map((id) => this.channels.mechanism.slotIds.indexOf(id)).filter((slot) => slot >= 0);
    if (this.heldMs === null) {
      this.heldMs = 0;
      if (on) this.begin(slots);
    } else this.heldMs += PERIOD;
    if (this.waking.length) return false;
    const { heldMs } = this;
    if (heldMs < (on ? Math.max(0, ...[...this.ways.values()].map(({ ms }) => ms)) : this.arrivesMs)) return false;
    this.heldMs = null;
    this.ways = new Map();
    if (!on) this.release(slots);
    return true;
  }

  private begin(slots: readonly number[]): void {
    for (const slot of slots) this.loose.delete(slot);
    const back = this.channels.all.filter((map) => this.off.has(map.drive.id) && !this.isLoose(map));
    for (const { drive } of back) this.off.delete(drive.id);
    this.waking = back;
  }
  private release(slots: readonly number[]): void {
    for (const slot of slots) this.loose.add(slot);
    this.limping = this.channels.all.filter((map) => !this.off.has(map.drive.id) && this.isLoose(map));
    for (const { drive } of this.limping) this.off.add(drive.id);
  }
  /** A motor that moves several joints is off only where all of them are let go. */
  private isLoose({ slots }: CommandMap): boolean {
    return slots.length > 0 && slots.every((slot) => this.loose.has(slot));
  }

  /** Motors that go on now, each at its value; each once. `planned`: where the plan has them. */
  wakes(planned: () => Values): Values {
    const woken = this.waking;
    if (!woken.length) return [];
    this.waking = [];
    const there = planned();
    return there.flatMap(([map, to]): Values => {
      if (!woken.includes(map)) return [];
      const from = isSpin(map) ? map.stopUs : (this.stands(map.drive.id) ?? to);
      const perS = isSpin(map) ? Infinity : Math.abs(map.native.perDeg) * this.gentle;
      this.ways.set(map.drive.id, { from, ms: (1000 * Math.abs(to - from)) / perS });
      return [[map, from]];
    });
  }
  /** Whether any motor is not where the plan has it. */
  get isOffPlan(): boolean {
    return this.off.size > 0 || this.ways.size > 0;
  }
  /** Motors that go off now; each once. */
  limps(): readonly CommandMap[] {
    const now = this.limping;
    this.limping = [];
    return now;
  }

  /** Of where the plan has the motors: those that come back on their way there. What is off takes no points (see the session). */
  values(planned: Values): Values {
    if (!this.ways.size) return planned;
    return planned.map(([map, to]) => {
      const way = this.ways.get(map.drive.id);
      if (!way) return [map, to] as const;
      const share = way.ms ? Math.min(1, (this.heldMs ?? 0) / way.ms) : 1;
      return [map, Math.round(way.from + (to - way.from) * share)] as const;
    });
  }
}
