import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { contractFindings, idleStatus, type ServerMessage, type Status } from '@cork-elbow/core/contract';
import { presetById, rigFromPreset } from '@cork-elbow/core/presets';
import { useRigStore } from './rig';
import { useRunStore } from './run';
import { useViewStore } from './view';

const made = rigFromPreset(presetById('servo-arm-4'), 'My arm');
if (!made.ok) throw new Error(made.faults[0].message);
const rig = made.value;

/** The server's end of the line. */
class Line {
  static readonly OPEN = 1;
  static all: Line[] = [];
  readyState = 0;
  readonly sent: unknown[] = [];
  onopen = (): void => undefined;
  onclose = (): void => undefined;
  onmessage = (_: { data: string }): void => undefined;
  constructor(readonly url: string) {
    Line.all.push(this);
  }
  send(text: string): void {
    this.sent.push(JSON.parse(text));
  }
  answer(): void {
    this.readyState = 1;
    this.onopen();
  }
  say(message: ServerMessage): void {
    this.onmessage({ data: JSON.stringify(message) });
  }
  close(): void {
    this.readyState = 3;
  }
  drop(): void {
    this.readyState = 3;
    this.onclose();
  }
}
const status = (change: Partial<Status>): ServerMessage => ({ type: 'status', status: { ...idleStatus, ...change } });
const connected = { link: 'connected', rigId: 'arm', armed: true, board: 'simulated board' } as const;
const telemetry = (
  runS: number,
  commanded: Record<string, number>,
  measured: Record<string, number> = {},
): ServerMessage =>
  ({ type: 'telemetry', runS, commanded, measured, wire: {}, read: {}, heat: {}, stepId: null }) as ServerMessage;

describe('the line to the board', () => {
  beforeEach(() => {
    vi.useFakeTimers();
    localStorage.clear();
    Line.all = [];
    vi.stubGlobal('WebSocket', Line);
    vi.stubGlobal(
      'fetch',
      async () =>
        new Response(JSON.stringify({ id: 'arm', revision: 1, updatedAt: '2026-01-01T00:00:00.000Z', rig })),
    );
    setActivePinia(createPinia());
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });
  async function begin() {
    const rigs = useRigStore();
    await rigs.open('arm');
    const [view, run] = [useViewStore(), useRunStore()];
    run.open();
    const [line] = Line.all;
    return { rigs, view, run, line, m: rigs.mechanism! };
  }

  it('is opened once, and what was asked before it stands is sent when it does, in order', async () => {
    const { run, line } = await begin();
    run.open();
    expect(Line.all).toHaveLength(1);
    expect(line.url).toMatch(/^ws:\/\/.*\/api\/live$/);
    expect(run.socketState).toBe('opening');
    run.send({ type: 'pause' });
    run.send({ type: 'resume' });
    expect(line.sent).toEqual([]);
    line.answer();
    expect(run.socketState).toBe('open');
    // Who it is comes first.
    expect(line.sent).toEqual([expect.objectContaining({ type: 'hello' }), { type: 'pause' }, { type: 'resume' }]);
    run.send({ type: 'stop' });
    expect(line.sent.at(-1)).toEqual({ type: 'stop' });
    expect(line.sent).toHaveLength(4);
  });
  it('stops a run once: a second press neither freezes it nor says more', async () => {
    const { run, line } = await begin();
    line.answer();
    line.say(status({ link: 'connected', rigId: 'arm', armed: true, run: 'running' }));
    const before = line.sent.length;
    run.stop();
    expect(line.sent.slice(before)).toEqual([{ type: 'stop' }]);
    line.say(status({ link: 'connected', rigId: 'arm', armed: true, run: 'stopping' }));
    run.stop();
    expect(line.sent.slice(before)).toEqual([{ type: 'stop' }]);
    line.say(status({ link: 'connected', rigId: 'arm', armed: true, run: 'running' }));
    run.stop();
    expect(line.sent.slice(before)).toEqual([{ type: 'stop' }, { type: 'stop' }]);
  });
  it('keeps every line to the boards once, also where it is told again, and begins anew with a server that does', async () => {
    const { run, line } = await begin();
    const said = (...numbers: number[]): ServerMessage => ({
      type: 'lines',
      lines: numbers.map((no) => ({
        no,
        atS: no / 10,
        board: 'one',
        way: no % 2 ? 'out' : 'in',
        text: `line ${no}`,
      })),
    });
    const kept = (): number[] => run.lines.map(({ no }) => no);
    run.listen(true);
    expect(line.sent).toEqual([]);
    line.answer();
    expect(line.sent.at(-1)).toEqual({ type: 'listen', on: true });
    line.say(said(1, 2, 3));
    line.say(said(2, 3, 4, 9));
    expect(kept()).toEqual([1, 2, 3, 4, 9]);
    // Broken and open again it is asked for again; what is told twice counts once.
    line.drop();
    vi.advanceTimersByTime(5000);
    const again = Line.all.at(-1)!;
    again.answer();
    expect(again.sent).toContainEqual({ type: 'listen', on: true });
    again.say(said(4, 9, 10));
    expect(kept()).toEqual([1, 2, 3, 4, 9, 10]);
    again.say(said(1, 2));
    expect(kept()).toEqual([1, 2]);
    run.listen(false);
    expect(again.sent.at(-1)).toEqual({ type: 'listen', on: false });
  });
  it('answers at once that it is there, under one name however often the line breaks', async () => {
    const { line } = await begin();
    line.answer();
    line.say({ type: 'ping' });
    expect(line.sent.at(-1)).toEqual({ type: 'beat' });
    line.drop();
    vi.advanceTimersByTime(5000);
    Line.all[1].answer();
    expect(Line.all[1].sent[0]).toEqual(line.sent[0]);
    expect(line.sent[0]).toMatchObject({ type: 'hello', page: expect.stringMatching(/^[\da-f-]{36}$/) });
  });
  it('drives where no other page has the controls, and takes them with what is chosen for its absence', async () => {
    const { run, line } = await begin();
    line.answer();
    const { page, openedAt } = line.sent[0] as { page: string; openedAt: string };
    line.say(status(connected));
    expect(run.mayDrive).toBe(true);
    line.say(status({ ...connected, control: { page, openedAt } }));
    expect(run.mayDrive).toBe(true);
    line.say(status({ ...connected, control: { page: 'another', openedAt } }));
    expect(run.mayDrive).toBe(false);
    run.setAway({ run: 'finish' });
    expect(line.sent.at(-1)).toEqual({ type: 'away', run: 'finish', then: 'hold', afterS: 600, silentOffS: null });
    run.setAfterStop('off');
    expect(line.sent.at(-1)).toEqual({ type: 'after-stop', then: 'off' });
    run.takeControls();
    expect(line.sent.slice(-3)).toEqual([
      { type: 'take' },
      { type: 'away', run: 'finish', then: 'hold', afterS: 600, silentOffS: null },
      { type: 'after-stop', then: 'off' },
    ]);
    // What somebody wrote into the browser's storage is no choice.
    localStorage.setItem('cork-elbow:away', '{"run":"fly"}');
    setActivePinia(createPinia());
    expect(useRunStore().away).toEqual({ run: 'stand', then: 'hold', afterS: 600, silentOffS: null });
  });
  it('is live for the rig that the board was connected for, and no other', async () => {
    const { run, line } = await begin();
    line.answer();
    expect(run.isLive).toBe(false);
    line.say(status({ ...connected, rigId: 'another' }));
    expect(run.isLive).toBe(false);
    line.say(status({ ...connected, link: 'connecting' }));
    expect(run.isLive).toBe(false);
    line.say(status(connected));
    expect(run.isLive).toBe(true);
    expect(run.isRunning).toBe(false);
    for (const state of ['starting', 'running', 'pausing', 'paused', 'stopping'] as const) {
      line.say(status({ ...connected, run: state }));
      expect(run.isRunning).toBe(true);
    }
    line.say(status({ ...connected, run: 'finished' }));
    expect(run.isRunning).toBe(false);
  });
  it('shows what is read back while the board is armed, and the person’s own pose while it is not', async () => {
    const { view, line, m } = await begin();
    line.answer();
    line.say(status({ ...connected, armed: false }));
    line.say(telemetry(0, { elbow: 20 }, { elbow: 21 }));
    expect(view.poseSource).toBe('edit');
    line.say(status(connected));
    line.say(telemetry(0, { elbow: 20, shoulder: 10 }, { elbow: 21 }));
    expect(view.poseSource).toBe('live');
    const at = (id: string): number => view.q[m.slotOf.get(id)!] / m.siPerUnit[m.slotOf.get(id)!];
    // Read back where it is, else as it was told.
    expect(at('elbow')).toBeCloseTo(21, 9);
    expect(at('shoulder')).toBeCloseTo(10, 9);
    line.say(status({ link: 'absent' }));
    expect(view.poseSource).toBe('edit');
    expect(at('elbow')).toBeCloseTo(21, 9);
  });
  it('keeps a trace of a run from its start, without the way there, and begins anew with the next', async () => {
    const { run, line } = await begin();
    line.answer();
    line.say(status({ ...connected, run: 'starting', runId: 'r1' }));
    line.say(telemetry(0, { elbow: 1 }));
    expect(run.traceNow().timeS).toEqual([]);
    line.say(status({ ...connected, run: 'running', runId: 'r1' }));
    line.say(telemetry(0.1, { elbow: 2 }, { elbow: 1.9 }));
    line.say(telemetry(0.2, { elbow: 3 }));
    expect(run.traceNow()).toEqual({ timeS: [0.1, 0.2], commanded: { elbow: [2, 3] }, measured: { elbow: [1.9] } });
    expect(run.ticks).toBe(2);
    line.say(status({ ...connected, run: 'finished', runId: 'r1' }));
    line.say(telemetry(0.3, { elbow: 9 }));
    // A run that is over stays on the chart.
    expect(run.traceNow().timeS).toEqual([0.1, 0.2]);
    line.say(status({ ...connected, run: 'running', runId: 'r2' }));
    expect(run.traceNow().timeS).toEqual([]);
    line.say(telemetry(0.05, { elbow: 4 }));
    line.say(status({ ...connected, run: 'pausing', runId: 'r2' }));
    line.say(telemetry(0.1, { elbow: 5 }));
    expect(run.traceNow().commanded.elbow).toEqual([4, 5]);
  });
  it('keeps the newest ten minutes of a run', async () => {
    const { run, line } = await begin();
    line.answer();
    line.say(status({ ...connected, run: 'running', runId: 'r1' }));
    for (let k = 0; k < 12_050; k++) line.say(telemetry(k / 20, { elbow: k }));
    const { timeS, commanded } = run.traceNow();
    expect(timeS).toHaveLength(12_000);
    expect(commanded.elbow).toHaveLength(12_000);
    expect(timeS[0]).toBeCloseTo(50 / 20, 9);
    expect(commanded.elbow.at(-1)).toBe(12_049);
  });
  it('a refusal is kept until something else is asked', async () => {
    const { run, line } = await begin();
    line.answer();
    line.say({ type: 'refused', code: 'board-unarmed', message: 'Arm it first.', findings: [] } as ServerMessage);
    expect(run.refusal).toMatchObject({ message: 'Arm it first.' });
    run.send({ type: 'pause' });
    expect(run.refusal).toBeNull();
  });
  it('a line that breaks says so, takes the live pose away, and is tried again', async () => {
    const { run, view, line } = await begin();
    line.answer();
    line.say(status(connected));
    line.say(telemetry(0, { elbow: 20 }));
    line.drop();
    expect(run.socketState).toBe('closed');
    expect(run.status).toMatchObject({ link: 'lost', armed: false, notice: contractFindings.say('server-away') });
    expect(view.poseSource).toBe('edit');
    run.send({ type: 'halt' });
    expect(Line.all).toHaveLength(2);
    Line.all[1].answer();
    expect(Line.all[1].sent).toEqual([expect.objectContaining({ type: 'hello' }), { type: 'halt' }]);
    await vi.advanceTimersByTimeAsync(5000);
    expect(Line.all).toHaveLength(2);
  });
  it('without a board a broken line is no news', async () => {
    const { run, line } = await begin();
    line.answer();
    line.drop();
    expect(run.status.link).toBe('absent');
    expect(Line.all).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(1400);
    expect(Line.all).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(200);
    expect(Line.all).toHaveLength(2);
  });
});
