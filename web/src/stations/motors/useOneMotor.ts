/** The chosen joint's motor on a board, by itself: sent values of its own unit, and what it reads back. */
import { computed, ref, watch } from 'vue';
import { isSpin, nativeOf } from '@cork-elbow/core/actuators';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import { useMotor } from './useMotor';

/** How far (° of the shaft) it goes past a value to come to it from one side. */
const PAST_DEG = 8;

export function useOneMotor() {
  const rigs = useRigStore();
  const run = useRunStore();
  const { row } = useMotor();
  const drive = computed(() => row.value?.drive ?? null);
  const map = computed(() => rigs.motors.find((m) => m.drive.id === drive.value?.id) ?? null);
  const isOn = computed(
    () => run.isLive && run.status.mode === 'one-motor' && run.status.motor === drive.value?.id && run.status.armed,
  );
  const mayMove = computed(() => isOn.value && run.mayDrive);

  /** What it may be sent, in its own unit. */
  const range = computed(() => {
    const m = map.value;
    if (!m) return null;
    if (isSpin(m)) return { low: m.low, high: m.high, unit: 'µs', perDeg: 0 };
    const own = nativeOf(m.drive, rigs.build!);
    return own && { low: own.low, high: own.high, unit: own.unit, perDeg: own.perDeg };
  });
  const read = computed(() => (drive.value && run.telemetry?.read[drive.value.id]) ?? null);
  /** What it was asked for last; what its board was sent while nobody asked. */
  const wish = ref<number | null>(null);
  const sent = computed(() => (drive.value && run.telemetry?.wire[drive.value.id]) ?? null);
  const value = computed(() => wish.value ?? sent.value);
  /** Where it begins: where it is, as far as that is known. */
  const start = computed(() => {
    const m = map.value;
    const known = sent.value ?? read.value;
    if (m && isSpin(m)) return m.stopUs;
    return known ?? (m?.drive.kind === 'servo' ? m.drive.centreUs : 0);
  });
  const inside = (v: number): number =>
    range.value ? Math.round(Math.min(range.value.high, Math.max(range.value.low, v))) : v;

  function on(at: number): void {
    if (!drive.value) return;
    wish.value = inside(at);
    run.send({ type: 'motor-on', drive: drive.value.id, value: wish.value });
  }
  function send(v: number): void {
    if (!mayMove.value) return;
    then = null;
    wish.value = inside(v);
    run.send({ type: 'motor-to', value: wish.value });
  }
  const off = (): void => run.send({ type: 'disarm' });

  /** What follows once it is where it was sent. */
  let then: number | null = null;
  /** Comes to where it stands once more, from smaller or from larger values. */
  function comeFrom(side: 'below' | 'above'): void {
    const to = value.value;
    if (to === null || !range.value) return;
    const past = Math.max(2, Math.abs(PAST_DEG * range.value.perDeg));
    send(side === 'below' ? to - past : to + past);
    then = to;
  }
  watch(sent, (now) => {
    if (then !== null && now === wish.value) send(then);
  });
  watch([isOn, () => drive.value?.id], () => {
    then = null;
    if (!isOn.value) wish.value = null;
  });
  // A stop, or a refusal: what was asked for is not where it goes.
  watch(
    () => run.refusal,
    (refusal) => refusal && (wish.value = then = null),
  );

  return { drive, map, isOn, mayMove, range, read, sent, value, start, on, send, off, comeFrom };
}
