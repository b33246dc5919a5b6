/** The run loop's own thread: paces the loop by the monotonic clock and passes messages through. */
import { parentPort } from 'node:worker_threads';
import {
  GONE_MS,
  isActive,
  type AfterStop,
  type ArmHow,
  type Away,
  type LinkOptions,
  type Trouble,
} from '@cork-elbow/core/contract';
import type { Rig } from '@cork-elbow/core/rig';
import { LineLog, openLink } from '../links';
import type { Guiding, LoopEvent, RunRequest } from './events';
import { RunLoop, TELL } from './loop';

export type WorkerRequest =
  | {
      type: 'connect';
      rigId: string;
      document: string;
      buildId: string;
      timeScale: number;
      links: Record<string, LinkOptions>;
    }
  | { type: 'run'; run: RunRequest; document: string }
  | { type: 'arm'; how: ArmHow; document: string | null }
  /** The page that has the controls was heard. */
  | { type: 'beat' }
  | { type: 'away'; away: Away }
  | { type: 'after-stop'; then: AfterStop }
  | { type: 'by-hand'; on: true; rigId: string; buildId: string; document: string; limitsOf?: string }
  | { type: 'by-hand'; on: false }
  | ({ type: 'guide' } & Guiding)
  | { type: 'motor-on'; drive: string; value: number; document: string | null }
  | { type: 'home'; document: string | null }
  | { type: 'motor-to'; value: number }
  | { type: 'pace'; share: number }
  | { type: 'step'; way: 'on' | 'back' }
  | { type: 'switch'; signal: string; on: boolean }
  | { type: 'force'; signal: string; on: boolean | null }
  | { type: 'trouble'; kind: Trouble; drive: string | null; by: number }
  | { type: 'line'; board: string; text: string }
  /** Whether any page hears the lines; one that begins to hears what is kept as well. */
  | { type: 'listen'; on: boolean }
  | { type: 'disconnect' | 'disarm' | 'lie-down' | 'clear' | 'pause' | 'resume' | 'stop' | 'halt' };

/** Before motors are switched on: by the rig as it is saved now. */
const takesIn = ({ document }: { document: string | null }): boolean =>
  document === null || loop.takeIn(JSON.parse(document) as Rig);
/** A document that the shelf has read. */
const rigIn = ({ document }: { document: string }): Rig => JSON.parse(document) as Rig;

const port = parentPort!;
/** Simulated time is advanced in pieces of this size (ms), so that a fast simulation sees every deadline. */
const PIECE = 4;
/**
 * Real time (ms) beyond which the computer counts as having been away: simulated time jumps as real time did. At more than real speed
 * every moment is simulated however late, for there is no real time to keep; what is longer than the second did not happen there.
 */
const AWAY = 60;
const AWAY_FAST = 2000;

const loop = new RunLoop((event: LoopEvent) => port.postMessage(event));
/** Lines are told at most this often (real ms). */
const TELL_LINES = 100;
const log = new LineLog();
let isHeard = false;
let linesAt = 0;
function tellLines(now: number, all = false): void {
  linesAt = now;
  const lines = log.take(all);
  if (lines.length) port.postMessage({ type: 'lines', lines } satisfies LoopEvent);
}

let scale = 1;
let clock = 0;
let last = performance.now();
/** When (real ms) the page that has the controls was last heard: looked at here, so that nothing else can hold it up. */
let beatAt = last;

function live(): void {
  const now = performance.now();
  const passed = Math.min(now - last, scale > 1 ? AWAY_FAST : Infinity);
  last = now;
  const until = clock + passed * scale;
  if (scale > 1 || passed < AWAY) while (clock + PIECE < until) loop.tick((clock += PIECE));
  clock = until;
  loop.setAlone(now - beatAt > GONE_MS);
  loop.tick(clock);
  if (isHeard && now - linesAt > TELL_LINES) tellLines(now);
}

/** Real ms between two looks at the clock: often while something moves, seldom while nothing is connected. */
function rest(): number {
  if (loop.state.link === 'absent') return 50;
  return isActive(loop.state.run) ? 1 : 8;
}
function goOn(): void {
  live();
  setTimeout(goOn, rest());
}
goOn();

port.on('message', (request: WorkerRequest) => {
  switch (request.type) {
    case 'beat':
      beatAt = performance.now();
      return;
    case 'away':
      return loop.setAway(request.away);
    case 'after-stop':
      return loop.setAfterStop(request.then);
    case 'clear':
      return loop.clear();
    case 'line':
      return loop.line(request.board, request.text, clock);
    case 'listen':
      isHeard = request.on;
      return isHeard ? tellLines(performance.now(), true) : undefined;
    case 'connect':
      beatAt = performance.now();
      log.begin();
      // What is really there lives in real time.
      scale = Object.values(request.links).every(({ kind }) => kind === 'simulated') ? request.timeScale : 1;
      loop.tellEvery = TELL * scale;
      return loop.connect(
        request.rigId,
        rigIn(request),
        request.buildId,
        (end) =>
          openLink(end, request.links[end.board] ?? { kind: 'simulated' }, clock, (link) =>
            log.listen(link, end.board, () => clock),
          ),
        clock,
      );
    case 'run':
      return loop.start(request.run, rigIn(request), () => {
        live();
        return clock;
      });
    case 'by-hand':
      return request.on
        ? loop.byHand(request.rigId, rigIn(request), request.buildId, clock, request.limitsOf)
        : loop.handOff();
    case 'motor-on':
      return takesIn(request) ? loop.motorOn(request.drive, request.value, clock) : undefined;
    case 'home':
      return loop.home(request.document === null ? null : rigIn({ document: request.document }), clock);
    case 'motor-to':
      return loop.motorTo(request.value, clock);
    case 'switch':
      return loop.switch(request.signal, request.on, clock);
    case 'force':
      return loop.force(request.signal, request.on);
    case 'trouble':
      return loop.trouble(request.kind, request.drive, request.by);
    case 'guide':
      return loop.guide(request, clock);
    case 'arm':
      return takesIn(request) ? loop.arm(request.how, clock) : undefined;
    case 'pace':
      return loop.setPace(request.share);
    case 'step':
      return loop.step(request.way, clock);
    case 'pause':
      return loop.pause();
    case 'lie-down':
      return loop.lieDown(clock);
    default:
      return loop[request.type](clock);
  }
});
