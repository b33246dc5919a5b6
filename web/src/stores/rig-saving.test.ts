import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { spinningDipper } from '../../../core/src/actuators/spin.testkit';
import { asTree, type Rig } from '@cork-elbow/core/rig';
import { forward } from '@cork-elbow/core/kinematics';
import { useRigStore } from './rig';

type Answer = (status: number, body: unknown) => Response;
/** A server of any rigs, in memory; `hold` keeps answers back until they are let go. */
function fakeServer(rigs: Record<string, Rig>) {
  const state = {
    rigs: Object.fromEntries(Object.entries(rigs).map(([id, rig]) => [id, { rig, revision: 1 }])),
    /** Every save that came in, with the revision it was over. */
    saves: [] as { id: string; revision: number; rig: Rig }[],
    gets: 0,
    away: false,
    refuse: null as ((answer: Answer) => Response) | null,
    held: [] as (() => void)[],
    hold: false,
    letGo(): void {
      state.hold = false;
      state.held.splice(0).forEach((go) => go());
    },
  };
  vi.stubGlobal('fetch', async (path: string, init?: RequestInit) => {
    if (state.away) throw new TypeError('away');
    const answer: Answer = (status, body) => new Response(JSON.stringify(body), { status });
    const id = decodeURIComponent(path.split('/')[3]);
    const isSave = init?.method === 'PUT';
    if (isSave) {
      const body = JSON.parse(String(init.body)) as { revision: number; rig: Rig };
      state.saves.push({ id, ...body });
    } else state.gets++;
    if (state.hold) await new Promise<void>((go) => state.held.push(go));
    if (state.refuse) return state.refuse(answer);
    const own = state.rigs[id];
    const at = (): object => ({ revision: own.revision, updatedAt: '2026-01-02T03:04:05.000Z', rig: own.rig });
    if (!own) return answer(404, { code: 'not-found', message: 'There is no rig.', faults: [] });
    if (!isSave) return answer(200, { id, ...at() });
    const { revision, rig } = state.saves.at(-1)!;
    if (revision !== own.revision)
      return answer(409, { code: 'revision-conflict', message: 'Changed elsewhere.', faults: [], ...at() });
    own.rig = rig;
    own.revision++;
    return answer(200, { revision: own.revision, updatedAt: '2026-02-02T00:00:00.000Z' });
  });
  return state;
}
/** Other windows of this browser, heard and speaking. */
class Channel {
  static all: Channel[] = [];
  readonly said: unknown[] = [];
  private readonly listeners: ((event: { data: unknown }) => void)[] = [];
  constructor(readonly name: string) {
    Channel.all.push(this);
  }
  addEventListener(type: string, listener: (event: { data: unknown }) => void): void {
    if (type === 'message') this.listeners.push(listener);
  }
  postMessage(data: unknown): void {
    this.said.push(data);
  }
  hear(data: unknown): void {
    this.listeners.forEach((listener) => listener({ data }));
  }
}
const dipper = tileDipper();
const named = (name: string): Rig => ({ ...structuredClone(dipper), name });
const settle = async (ms = 3000): Promise<void> => void (await vi.advanceTimersByTimeAsync(ms));

beforeEach(() => {
  vi.useFakeTimers();
  localStorage.clear();
  sessionStorage.clear();
  Channel.all = [];
  vi.stubGlobal('BroadcastChannel', Channel);
  setActivePinia(createPinia());
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
async function open(server = fakeServer({ arm: dipper }), id = 'arm') {
  const rigs = useRigStore();
  await rigs.open(id);
  return { server, rigs, channel: Channel.all.at(-1)! };
}

describe('before anything is open', () => {
  it('there is nothing to show, to edit, to save or to take over', async () => {
    const server = fakeServer({ arm: dipper });
    const rigs = useRigStore();
    expect(rigs).toMatchObject({
      ...{ id: null, rig: null, mechanism: null, build: null, saveState: 'saved', saveMessage: '', loadError: '' },
      ...{ undoLabel: null, redoLabel: null, buildUndoLabel: null, clash: null, savedAt: null },
    });
    expect(rigs.driven).toEqual([]);
    expect(rigs.motors).toEqual([]);
    expect(rigs.commit('a', () => undefined)).toEqual({ ok: false, message: 'No rig is open.' });
    rigs.undo();
    rigs.redo();
    await rigs.save();
    await rigs.takeOver();
    await rigs.settle('mine');
    await settle();
    expect([server.saves.length, server.gets]).toEqual([0, 0]);
    expect(localStorage.length + sessionStorage.length).toBe(0);
  });
});

describe('what is open', () => {
  it('is the rig that was asked for last, however the answers come', async () => {
    const server = fakeServer({ arm: dipper, other: named('Other') });
    const rigs = useRigStore();
    server.hold = true;
    const [first, second] = [rigs.open('arm'), rigs.open('other')];
    server.held.reverse();
    server.letGo();
    await Promise.all([first, second]);
    expect([rigs.id, rigs.rig!.name]).toEqual(['other', 'Other']);
  });
  it('says when it was saved, and leaves nothing of the rig before', async () => {
    const { rigs, server } = await open(fakeServer({ arm: dipper, other: named('Other') }));
    expect(rigs.savedAt!.toISOString()).toBe('2026-01-02T03:04:05.000Z');
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    expect(rigs.savedAt!.toISOString()).toBe('2026-02-02T00:00:00.000Z');
    rigs.commit('b', (d) => void (d.name = 'B'));
    await rigs.open('other');
    expect(rigs).toMatchObject({ undoLabel: null, redoLabel: null, saveState: 'saved' });
    await settle();
    // The edit that was not saved yet is kept, and sent when its rig is open again; never over another one.
    expect(server.saves.map((s) => s.id)).toEqual(['arm']);
    await rigs.open('arm');
    expect(rigs.rig!.name).toBe('B');
    await settle();
    expect(server.rigs.arm.rig.name).toBe('B');
    expect(server.rigs.other.rig.name).toBe('Other');
  });
  it('that does not pass its checks or cannot be compiled is said in a sentence', async () => {
    const broken = structuredClone(dipper);
    broken.wiring[0].board = 'nowhere';
    const follower = structuredClone(dipper);
    asTree(follower.mechanism).joints.push({
      ...{ id: 'rod', type: 'revolute', parent: 'shoulder', axis: [0, 1, 0], home: 0, offset: 0 },
      ...{ origin: { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] }, follows: [{ joint: 'shoulder', factor: 1 }] },
      limits: { min: 1000, max: 1001 },
    });
    for (const rig of [broken, follower]) {
      const { rigs } = await open(fakeServer({ arm: rig }));
      expect(rigs.rig).toBeNull();
      expect(rigs.loadError).toMatch(/^[A-Z].*\.$/);
      expect(rigs.loadError).not.toMatch(/\[\d/);
    }
  });
  it('has the motors in the order of the transmissions, those that are sent speeds among them', async () => {
    const { rig } = spinningDipper();
    const { rigs } = await open(fakeServer({ arm: rig }));
    const order = rig.transmissions.flatMap((t) => [...t.drives] as string[]);
    const ids = rigs.motors.map((m) => m.drive.id);
    expect(ids).toEqual(order.filter((id) => ids.includes(id)));
    expect(rigs.driven.length).toBeLessThan(rigs.motors.length);
    const mixed = structuredClone(kilnLoader());
    mixed.transmissions.reverse();
    const { rigs: loader } = await open(fakeServer({ arm: mixed }));
    expect(loader.motors.map((m) => m.drive.id)).toEqual(mixed.transmissions.flatMap((t) => [...t.drives]));
  });
});

describe('the build that is worked with', () => {
  const two = structuredClone(dipper);
  two.builds.push({
    ...structuredClone(two.builds[0]),
    id: 'second',
    name: 'On the shelf',
    mounting: { xyzMm: [0, 0, 250], rpyDeg: [0, 0, 0] },
  });
  const heightOf = (rigs: ReturnType<typeof useRigStore>): number =>
    forward(rigs.mechanism!, rigs.mechanism!.home).joints.get('shoulder')![11];
  it('is the first until another is chosen, and the arm stands where that one does', async () => {
    const { rigs } = await open(fakeServer({ arm: two }));
    expect(rigs.build!.id).toBe(two.builds[0].id);
    const low = heightOf(rigs);
    rigs.buildId = 'second';
    expect(rigs.build!.id).toBe('second');
    expect(heightOf(rigs)).toBeCloseTo(low + 0.25, 9);
    rigs.buildId = 'gone';
    expect(rigs.build!.id).toBe(two.builds[0].id);
    expect(heightOf(rigs)).toBeCloseTo(low, 9);
  });
  it('moved is shown moved, and undone where it was', async () => {
    const { rigs } = await open(fakeServer({ arm: two }));
    rigs.buildId = 'second';
    const before = heightOf(rigs);
    rigs.commit('Mounting', (d) => void (d.builds[1].mounting!.xyzMm[2] = 400), 'build');
    expect(heightOf(rigs)).toBeCloseTo(before + 0.15, 9);
    expect(rigs.buildUndoLabel).toBe('Mounting');
    rigs.undo('build');
    expect(heightOf(rigs)).toBeCloseTo(before, 9);
    expect(rigs.buildUndoLabel).toBeNull();
  });
  it('gives its own pulses', async () => {
    const { rigs } = await open(fakeServer({ arm: two }));
    rigs.commit('Trim', (d) => void (d.builds[1].trims['m-turn'] = 40), 'build');
    const pulse = (): unknown => rigs.driven.find((m) => m.drive.id === 'm-turn')!.native;
    const first = JSON.stringify(pulse());
    rigs.buildId = 'second';
    expect(JSON.stringify(pulse())).not.toBe(first);
  });
});

describe('saving', () => {
  it('waits a little, says each state, and sends the last of what was typed', async () => {
    const { rigs, server } = await open();
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle(300);
    rigs.commit('b', (d) => void (d.name = 'AB'));
    await settle(300);
    expect([rigs.saveState, server.saves.length]).toEqual(['waiting', 0]);
    server.hold = true;
    await settle(100);
    expect([rigs.saveState, server.saves.length]).toEqual(['saving', 1]);
    // An edit while it is on its way is sent after it, over the revision that came back.
    rigs.commit('c', (d) => void (d.name = 'ABC'));
    await settle(1000);
    expect(server.saves).toHaveLength(1);
    server.letGo();
    await settle();
    expect(server.saves.map((s) => [s.revision, s.rig.name])).toEqual([
      [1, 'AB'],
      [2, 'ABC'],
    ]);
    expect(rigs).toMatchObject({ saveState: 'saved', revision: 3 });
    expect(localStorage.length).toBe(0);
  });
  it('keeps what is typed while a save is on its way over a closed window', async () => {
    const { rigs, server } = await open();
    rigs.commit('a', (d) => void (d.name = 'A'));
    server.hold = true;
    await settle(400);
    rigs.commit('b', (d) => void (d.name = 'B'));
    server.letGo();
    await settle(150);
    expect(JSON.parse(localStorage.getItem('cork-elbow:unsaved:arm')!)).toMatchObject({ rig: { name: 'B' } });
    await settle();
    expect(localStorage.length).toBe(0);
  });
  it('sends an edit that changed nothing not at all', async () => {
    const { rigs, server } = await open();
    expect(rigs.commit('same', (d) => void (d.name = dipper.name))).toEqual({ ok: true });
    await settle();
    expect([server.saves.length, rigs.undoLabel]).toEqual([0, null]);
  });
  it('says in people’s words what the server refused, keeps the edit, and tries again with the next', async () => {
    const { rigs, server } = await open();
    server.refuse = (answer) =>
      answer(400, {
        ...{ code: 'shape', message: 'mechanism.joints[2].limits.max must be at most 360.' },
        faults: [
          {
            ...{ code: 'shape', path: 'mechanism.joints[2].limits.max', expected: 'at most 360', got: '400' },
            message: 'mechanism.joints[2].limits.max must be at most 360; got 400.',
          },
        ],
      });
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    expect(rigs.saveState).toBe('refused');
    expect(rigs.saveMessage).toMatch(/^Elbow: upper limit/);
    server.refuse = (answer) => answer(413, { code: 'x', message: 'It is too large.', faults: [] });
    await rigs.save();
    expect(rigs).toMatchObject({ saveState: 'refused', saveMessage: 'It is too large.' });
    // No save by itself: nothing has changed.
    const { length } = server.saves;
    await settle(20_000);
    expect(server.saves).toHaveLength(length);
    server.refuse = null;
    rigs.commit('b', (d) => void (d.name = 'B'));
    await settle();
    expect(rigs).toMatchObject({ saveState: 'saved', saveMessage: '' });
    expect(server.rigs.arm.rig.name).toBe('B');
  });
  it('away stays away until it is there again, and then all is saved at once', async () => {
    const { rigs, server } = await open();
    server.away = true;
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    rigs.commit('b', (d) => void (d.name = 'B'));
    expect(rigs.saveState).toBe('away');
    await settle(1000);
    expect(rigs.saveState).toBe('away');
    server.away = false;
    await settle();
    expect(rigs.saveState).toBe('saved');
    expect(server.saves).toHaveLength(1);
  });
  it.each([429, 503, 507])(
    'refused as %i is kept, said, and tried again by itself until it is taken',
    async (status) => {
      const { rigs, server } = await open();
      const message = 'The disk is full; nothing was saved.';
      server.refuse = (answer) => answer(status, { code: 'data-full', message, faults: [] });
      rigs.commit('a', (d) => void (d.name = 'A'));
      await settle();
      expect([rigs.saveState, rigs.saveMessage, rigs.rig!.name]).toEqual(['away', message, 'A']);
      server.refuse = null;
      await settle(10_000);
      expect([rigs.saveState, rigs.saveMessage]).toEqual(['saved', '']);
      expect(server.rigs.arm.rig.name).toBe('A');
    },
  );
  it('of a rig that is no longer open is not taken for the one that is', async () => {
    const { rigs, server } = await open(fakeServer({ arm: dipper, other: named('Other') }));
    rigs.commit('a', (d) => void (d.name = 'A'));
    server.hold = true;
    await settle(400);
    const opening = rigs.open('other');
    server.letGo();
    await opening;
    await settle();
    expect(rigs).toMatchObject({ id: 'other', revision: 1, saveState: 'saved' });
    expect(server.rigs.arm.rig.name).toBe('A');
  });
  it('tells the other windows which revision there is now', async () => {
    const { rigs, channel } = await open();
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    expect(channel.said).toEqual([{ id: 'arm', revision: 2 }]);
  });
  it('works where windows cannot talk to each other', async () => {
    vi.stubGlobal('BroadcastChannel', undefined);
    setActivePinia(createPinia());
    const { rigs, server } = await open();
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    expect(server.rigs.arm.rig.name).toBe('A');
  });
});

describe('what another window saved', () => {
  const elsewhere = (server: ReturnType<typeof fakeServer>, revision: number, name: string): void => {
    server.rigs.arm = { rig: named(name), revision };
  };
  it('is taken over as soon as it is told, once, for this rig and a newer revision only', async () => {
    const { rigs, server, channel } = await open();
    const gets = (): number => server.gets;
    elsewhere(server, 4, 'Theirs');
    const before = gets();
    channel.hear({ id: 'other', revision: 9 });
    channel.hear({ id: 'arm', revision: 1 });
    await settle(10);
    expect(gets()).toBe(before);
    channel.hear({ id: 'arm', revision: 4 });
    await settle(10);
    expect(rigs).toMatchObject({ revision: 4, undoLabel: 'What another window changed' });
    expect(rigs.rig!.name).toBe('Theirs');
    expect(rigs.savedAt!.toISOString()).toBe('2026-01-02T03:04:05.000Z');
  });
  it('does not disturb what is being saved, waits or clashes here', async () => {
    const { rigs, server, channel } = await open();
    rigs.commit('a', (d) => void (d.name = 'Mine'));
    elsewhere(server, 4, 'Theirs');
    const before = server.gets;
    channel.hear({ id: 'arm', revision: 4 });
    await settle(10);
    expect([server.gets, rigs.rig!.name]).toEqual([before, 'Mine']);
    await settle();
    expect(rigs.saveState).toBe('conflict');
    channel.hear({ id: 'arm', revision: 5 });
    await settle(10);
    expect(rigs.rig!.name).toBe('Mine');
  });
  it('comes too late where something was typed while it was fetched', async () => {
    const { rigs, server } = await open();
    elsewhere(server, 4, 'Theirs');
    server.hold = true;
    const taking = rigs.takeOver();
    rigs.commit('a', (d) => void (d.name = 'Mine'));
    server.letGo();
    await taking;
    expect(rigs.rig!.name).toBe('Mine');
    expect(rigs.revision).toBe(1);
  });
  it('that is no news changes nothing; a server that is away, or a rig that cannot be, neither', async () => {
    const { rigs, server } = await open();
    const shown = rigs.rig;
    await rigs.takeOver();
    expect(rigs.rig).toBe(shown);
    expect(rigs.undoLabel).toBeNull();
    server.away = true;
    await rigs.takeOver();
    server.away = false;
    const broken = named('Broken');
    broken.wiring[0].board = 'nowhere';
    server.rigs.arm = { rig: broken, revision: 8 };
    await rigs.takeOver();
    expect(rigs.rig).toBe(shown);
    expect(rigs.revision).toBe(1);
    // The same rig under a newer revision is that revision from now on, without an edit to undo.
    server.rigs.arm = { rig: structuredClone(dipper), revision: 9 };
    await rigs.takeOver();
    expect([rigs.revision, rigs.undoLabel]).toEqual([9, null]);
  });
});

describe('a clash', () => {
  async function clash() {
    const made = await open();
    made.server.rigs.arm = { rig: named('Theirs'), revision: 5 };
    made.rigs.commit('a', (d) => void (d.name = 'Mine'));
    await settle();
    return made;
  }
  it('stops saving until it is settled; what is typed meanwhile stays', async () => {
    const { rigs, server } = await clash();
    expect(rigs.saveMessage).toBe('Changed elsewhere.');
    rigs.commit('b', (d) => void (d.name = 'Mine too'));
    const { length } = server.saves;
    await settle(20_000);
    expect([rigs.saveState, server.saves.length]).toEqual(['conflict', length]);
    await rigs.settle('mine');
    await settle();
    expect(rigs).toMatchObject({ saveState: 'saved', theirs: null, clash: null });
    expect(server.rigs.arm).toMatchObject({ revision: 6, rig: { name: 'Mine too' } });
  });
  it('takes theirs as it came where the server is away by then', async () => {
    const { rigs, server } = await clash();
    server.away = true;
    await rigs.settle('theirs');
    expect(rigs).toMatchObject({ saveState: 'saved', revision: 5, saveMessage: '' });
    expect(rigs.rig!.name).toBe('Theirs');
    expect(localStorage.length).toBe(0);
  });
  it('of another kind than a newer revision is a refusal, not a clash', async () => {
    const { rigs, server } = await open();
    server.refuse = (answer) => answer(409, { code: 'run-busy', message: 'It is running.', faults: [] });
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    expect(rigs).toMatchObject({ saveState: 'refused', saveMessage: 'It is running.', theirs: null });
  });
});

describe('what is kept in this browser', () => {
  it.each([
    ['no JSON', '{"revision":1,'],
    ['no rig', '{"revision":1,"rig":{"name":"x"}}'],
    ['nothing', 'null'],
  ])('a draft that is %s is dropped, and the saved rig opens', async (_, text) => {
    localStorage.setItem('cork-elbow:unsaved:arm', text);
    const { rigs } = await open();
    expect(rigs.rig!.name).toBe(dipper.name);
    expect(localStorage.getItem('cork-elbow:unsaved:arm')).toBeNull();
    expect(rigs).toMatchObject({ saveState: 'saved', loadError: '' });
  });
  it('a history that cannot be read is dropped, one of another document of the same length is not used', async () => {
    sessionStorage.setItem('cork-elbow:undo:arm', '{');
    let { rigs } = await open();
    expect(sessionStorage.getItem('cork-elbow:undo:arm')).toBeNull();
    rigs.commit('a', (d) => void (d.name = 'Abcdef'));
    await settle();
    const server = fakeServer({ arm: named('Fedcba') });
    setActivePinia(createPinia());
    ({ rigs } = await open(server));
    expect(rigs.undoLabel).toBeNull();
  });
  it('of a long history the oldest edits are left out, never the newest', async () => {
    const { rigs } = await open();
    for (let k = 0; k < 12; k++)
      rigs.commit(`edit ${k}`, (d) => void (d.poses[0].note = String(k).repeat(1900) + 'x'.repeat(k)));
    const big = 'n'.repeat(1900);
    for (let k = 12; k < 30; k++)
      rigs.commit(`edit ${k}`, (d) => {
        for (const pose of d.poses) pose.note = big + k;
        for (const routine of d.routines) for (const step of routine.steps) step.note = big + k;
      });
    await settle();
    const text = sessionStorage.getItem('cork-elbow:undo:arm')!;
    expect(text.length).toBeLessThan(1_501_000);
    const { done } = JSON.parse(text) as { done: { label: string }[] };
    expect(done.at(-1)!.label).toBe('edit 29');
    expect(done.length).toBeGreaterThan(3);
    expect(done.length).toBeLessThan(30);
    // And no more are left out than must be.
    expect(text.length).toBeGreaterThan(1_300_000);
  });
  it('a storage that is full or forbidden loses nothing of what is on screen', async () => {
    const { rigs, server } = await open();
    const full = vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    expect(rigs.commit('a', (d) => void (d.name = 'A'))).toEqual({ ok: true });
    await settle();
    full.mockRestore();
    expect(server.rigs.arm.rig.name).toBe('A');
    expect(rigs.undoLabel).toBe('a');
  });
  it('where the browser forbids all storage a rig opens, is changed and saved', async () => {
    const forbid = (): never => {
      throw new DOMException('no', 'SecurityError');
    };
    const spies = (['getItem', 'setItem', 'removeItem'] as const).map((name) =>
      vi.spyOn(Storage.prototype, name).mockImplementation(forbid),
    );
    const { rigs, server } = await open();
    expect(rigs).toMatchObject({ saveState: 'saved', loadError: '' });
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settle();
    expect([server.rigs.arm.rig.name, rigs.saveState]).toEqual(['A', 'saved']);
    for (const spy of spies) spy.mockRestore();
  });
});
