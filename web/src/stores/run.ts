/** The live connection to the server's run thread: link and run states, telemetry in ring buffers. */
import { useLocalStorage, useSessionStorage, useThrottleFn, useWebSocket } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  awaySchema,
  contractFindings,
  idleStatus,
  LEAST_SHARE,
  MOST_SHARE,
  USUAL_SHARE,
  usualAway,
  type AfterStop,
  type Away,
  type BoardLine,
  type PageName,
  isActive,
  type ClientMessageInput,
  type ServerMessage,
  type Status,
  type Telemetry,
} from '@cork-elbow/core/contract';
import type { Finding } from '@cork-elbow/core/findings';
import { valueTowards } from '@cork-elbow/core/kinematics';
import { confirmedLimits, fromSlots, toSlots } from '@cork-elbow/core/mechanism';
import type { OwnLines } from '@cork-elbow/core/own-lines';
import { useRigStore } from './rig';
import { useViewStore } from './view';

/** Samples kept for the chart: 20 a second for ten minutes. */
const KEEP = 12_000;
/** Lines to and from boards that are kept: some minutes of a run. */
const KEEP_LINES = 20_000;
/** Wishes for joints that are led by hand go out at most once in so long (ms). */
const LEAD_EVERY = 40;
/** How long (ms) after its end the line is opened again. */
const RECONNECT = 1500;
const socketStates = { OPEN: 'open', CONNECTING: 'opening', CLOSED: 'closed' } as const;

export interface Trace {
  timeS: number[];
  commanded: Record<string, number[]>;
  measured: Record<string, number[]>;
}
const emptyTrace = (): Trace => ({ timeS: [], commanded: {}, measured: {} });

export const useRunStore = defineStore('run', () => {
  const rigs = useRigStore();
  const view = useViewStore();
  const status = shallowRef<Status>(idleStatus);
  /** What this page may do: on the server's computer everything, on another device what was decided there. */
  const right = ref<'here' | 'watch' | 'drive'>('here');
  const telemetry = shallowRef<Telemetry | null>(null);
  const refusal = shallowRef<{ message: string; remedy?: string; findings: readonly Finding[] } | null>(null);
  /** Not reactive: read by the chart when `ticks` changes. */
  let trace: Trace = emptyTrace();
  const ticks = ref(0);
  /** What has gone over the lines to the boards, oldest first; while somebody listens. */
  const lines = shallowRef<readonly BoardLine[]>([]);
  let listens = false;
  /** Who this page is, the same after a reload. */
  const me = useSessionStorage<PageName>('cork-elbow:page', {
    page: crypto.randomUUID(),
    openedAt: new Date().toISOString(),
  });
  // A tab that was doubled brings the other one's storage along.
  const [entered] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
  if (entered && entered.type !== 'reload' && entered.type !== 'back_forward')
    me.value = { page: crypto.randomUUID(), openedAt: new Date().toISOString() };
  /** What is done when it is gone, as it was chosen last. */
  const chosenAway = useLocalStorage<Away>('cork-elbow:away', usualAway);
  const away = computed(() => awaySchema.safeParse(chosenAway.value).data ?? usualAway);
  const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
  /** Opens again by itself; what is said before it stands is sent when it does. */
  const socket = useWebSocket<string>(`${scheme}://${location.host}/api/live`, {
    immediate: false,
    autoConnect: false,
    // A page that is left may still be stayed on.
    autoClose: false,
    autoReconnect: { delay: RECONNECT },
    onConnected: (line) => {
      line.send(JSON.stringify({ type: 'hello', ...me.value } satisfies ClientMessageInput));
      if (listens) sayListens();
    },
    onMessage: (_, { data }) => hear(JSON.parse(data) as ServerMessage),
    onDisconnected: lost,
  });
  const socketState = computed(() => socketStates[socket.status.value]);

  /** Boards (ids) that are sent lines of the builder's own, and what those can do. */
  const ownLines = computed(
    (): ReadonlyMap<string, OwnLines> => new Map(status.value.ownLines.map((lines) => [lines.board, lines])),
  );
  const isLive = computed(() => status.value.link === 'connected' && status.value.rigId === rigs.id);
  const isRunning = computed(() => isActive(status.value.run));
  /** Whether no other page has the controls. */
  const mayDrive = computed(
    () => right.value !== 'watch' && (!status.value.control || status.value.control.page === me.value.page),
  );
  /** Why nothing can be moved from here; empty where it can. */
  const whyNotDrive = computed(() => {
    if (right.value === 'watch') return 'This device may watch and stop, not move anything.';
    return mayDrive.value ? '' : 'Another page has the controls.';
  });

  /** Whether a simulated board is on the line: what is around it can be played. */
  const isSimulated = computed(
    () => isLive.value && mayDrive.value && status.value.board.includes('simulated board'),
  );
  /** Whether nothing holds back what moves: no stop that nobody has cleared, no motor that was let go. */
  const isFree = computed(() => !status.value.latched && !status.value.limp.length);

  function open(): void {
    if (socket.status.value === 'CLOSED') socket.open();
  }
  function lost(): void {
    if (status.value.link === 'absent') return;
    status.value = { ...idleStatus, link: 'lost', notice: contractFindings.say('server-away') };
    view.setLive(null);
  }

  function hear(message: ServerMessage): void {
    switch (message.type) {
      case 'ping':
        // What is heard is answered at once: a page that is frozen hears nothing.
        return void socket.send(JSON.stringify({ type: 'beat' }));
      case 'status': {
        const before = status.value;
        status.value = message.status;
        if (
          message.status.run === 'starting' ||
          (message.status.run === 'running' && before.runId !== message.status.runId)
        ) {
          if (before.runId !== message.status.runId) trace = emptyTrace();
        }
        if (message.status.link !== 'connected') view.setLive(null);
        break;
      }
      case 'right':
        right.value = message.right;
        return;
      case 'telemetry':
        telemetry.value = message;
        record(message);
        showLive(message);
        break;
      case 'lines':
        return keepLines(message.lines);
      case 'refused':
        refusal.value = message;
        // What was asked for last may not be done.
        wish.value = null;
    }
  }

  function record(message: Telemetry): void {
    if (!isRunning.value || status.value.run === 'starting') return;
    trace.timeS.push(message.runS);
    for (const kind of ['commanded', 'measured'] as const)
      for (const [id, value] of Object.entries(message[kind])) (trace[kind][id] ??= []).push(value);
    if (trace.timeS.length > KEEP) {
      trace.timeS.shift();
      for (const kind of ['commanded', 'measured'] as const)
        Object.values(trace[kind]).forEach((list) => list.shift());
    }
    ticks.value++;
  }

  function showLive(message: Telemetry): void {
    const { mechanism } = rigs;
    if (!mechanism || !isLive.value) return;
    // An unarmed board drives nothing: the person's own pose stays on show.
    const { commanded, measured, wire, read } = message;
    const blind = Object.keys(wire).filter((drive) => !(drive in read)).length;
    view.setLive(
      status.value.armed ? toSlots(mechanism, { ...commanded, ...measured }) : null,
      Object.keys(read).length ? (blind ? 'some' : 'all') : 'none',
    );
  }

  function send(message: ClientMessageInput): void {
    refusal.value = null;
    open();
    socket.send(JSON.stringify(message));
  }

  // ── Led by hand ─────────────────────────────────────────────────────────────────────────────────────────────────

  /** Whether joints here move the arm. */
  const byHand = computed(() => isLive.value && mayDrive.value && status.value.mode === 'by-hand');
  /** Whether anything here moves something that a stop ends, besides a run. */
  const isLed = computed(
    () => isLive.value && ['by-hand', 'one-motor', 'homing', 'lying-down'].includes(status.value.mode),
  );
  /** Share of the joints' speed at which they do. */
  const chosenShare = useLocalStorage('cork-elbow:hand-share', USUAL_SHARE);
  const share = computed(() => Math.min(MOST_SHARE, Math.max(LEAST_SHARE, Number(chosenShare.value) || USUAL_SHARE)));
  /** Where the joints were told to go (slots, SI); null: where they are. */
  const wish = shallowRef<Float64Array | null>(null);
  watch([byHand, () => rigs.mechanism], () => (wish.value = null), { flush: 'sync' });
  // A changed rig is another one than what the board was told: it is taken in by beginning anew.
  watch(
    () => rigs.revision,
    () => byHand.value && setByHand(false),
  );
  function setByHand(on: boolean): void {
    send({ type: 'by-hand', on, rigId: rigs.id!, revision: rigs.revision, buildId: rigs.build!.id });
  }
  const handPose = (): Float64Array | null => {
    const { mechanism } = rigs;
    if (!mechanism || !telemetry.value) return null;
    return wish.value ?? toSlots(mechanism, telemetry.value.commanded);
  };
  let led: Record<string, number> = {};
  const sayLed = useThrottleFn(
    () => {
      const joints = led;
      led = {};
      if (byHand.value && Object.keys(joints).length) send({ type: 'guide', joints, share: share.value });
    },
    LEAD_EVERY,
    true,
  );
  /** One joint towards a value (SI), as far as limits, those that are confirmed, and rules let it go from where the others are told to go. */
  function leadJoint(slot: number, value: number): void {
    const { mechanism, build } = rigs;
    const pose = handPose()?.slice();
    if (!mechanism || !build || !pose || !byHand.value) return;
    pose[slot] = valueTowards(confirmedLimits(mechanism, build), pose, slot, value);
    wish.value = pose;
    led[mechanism.slotIds[slot]] = pose[slot] / mechanism.siPerUnit[slot];
    void sayLed();
  }
  /** A tool straight to where it is in another pose (slots, SI). */
  function leadTool(pose: Float64Array, tool: string): void {
    const { mechanism } = rigs;
    if (!mechanism || !byHand.value) return;
    wish.value = pose;
    send({ type: 'guide', joints: fromSlots(mechanism, pose), share: share.value, straight: { tool } });
  }

  const sayListens = (): void => void socket.send(JSON.stringify({ type: 'listen', on: listens }));
  /** Hears what goes over the lines, or no more; what was heard stays. */
  function listen(on: boolean): void {
    listens = on;
    open();
    // A line that is not open yet says it as it opens.
    if (socket.status.value === 'OPEN') sayListens();
  }
  /** Who begins to listen is told again what is kept: each line counts once. A server that began anew counts from the beginning. */
  function keepLines(come: readonly BoardLine[]): void {
    const last = lines.value.at(-1)?.no ?? 0;
    const anew = come.at(-1)!.no < last;
    const fresh = anew ? come : come.filter(({ no }) => no > last);
    if (fresh.length) lines.value = [...(anew ? [] : lines.value), ...fresh].slice(-KEEP_LINES);
  }

  /** Slows the run down and ends it; one that is stopping is left to it: who wants it to stand at once freezes it. */
  function stop(): void {
    wish.value = null;
    led = {};
    if (status.value.run !== 'stopping') send({ type: 'stop' });
  }

  const chosenAfter = useLocalStorage<AfterStop>('cork-elbow:after-stop', 'hold');
  const afterStop = computed<AfterStop>(() => (chosenAfter.value === 'off' ? 'off' : 'hold'));
  function setAfterStop(then: AfterStop): void {
    chosenAfter.value = then;
    send({ type: 'after-stop', then });
  }
  function sayAway(): void {
    send({ type: 'away', ...away.value });
    send({ type: 'after-stop', then: afterStop.value });
  }
  function setAway(change: Partial<Away>): void {
    chosenAway.value = { ...away.value, ...change };
    send({ type: 'away', ...away.value });
  }
  function takeControls(): void {
    send({ type: 'take' });
    sayAway();
  }

  return {
    ...{ afterStop, setAfterStop, isSimulated, isFree },
    ...{ away, setAway, sayAway, mayDrive, whyNotDrive, right, takeControls },
    ownLines,
    ...{ status, telemetry, refusal, socketState, ticks, isLive, isRunning, open, send, stop },
    ...{ lines, listen },
    ...{ byHand, isLed, setByHand, wish, handPose, leadJoint, leadTool, handShare: share },
    setHandShare: (to: number) => void (chosenShare.value = to),
    traceNow: () => trace,
  };
});
