import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { asTree, parseRig, type Rig } from '@cork-elbow/core/rig';
import { presetById, rigFromPreset } from '@cork-elbow/core/presets';
import { useRigStore } from './rig';

const made = rigFromPreset(presetById('servo-arm-4'), 'My arm');
if (!made.ok) throw new Error(made.faults[0].message);
const start = made.value;

/** A server of one rig, in memory; `away` makes every call fail as a broken connection does. */
function fakeServer(rig: Rig) {
  const state = { rig, revision: 1, away: false, saves: 0 };
  vi.stubGlobal('fetch', async (_path: string, init?: RequestInit) => {
    if (state.away) throw new TypeError('away');
    const answer = (status: number, body: unknown): Response => new Response(JSON.stringify(body), { status });
    const at = { revision: state.revision, updatedAt: '2026-01-01T00:00:00.000Z', rig: state.rig };
    if (init?.method !== 'PUT') return answer(200, { id: 'arm', ...at });
    const body = JSON.parse(String(init.body)) as { revision: number; rig: Rig };
    if (body.revision !== state.revision)
      return answer(409, { code: 'revision-conflict', message: 'Changed elsewhere.', faults: [], ...at });
    state.rig = body.rig;
    state.revision++;
    state.saves++;
    return answer(200, { revision: state.revision, updatedAt: at.updatedAt });
  });
  return state;
}
const settled = async (): Promise<void> => {
  await vi.advanceTimersByTimeAsync(3000);
};

describe('the open rig', () => {
  beforeEach(() => {
    // Windows of tests before keep what they have, and are gone.
    window.dispatchEvent(new Event('pagehide'));
    vi.useFakeTimers();
    localStorage.clear();
    setActivePinia(createPinia());
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it('saves edits by itself, several at once, over the revision it read', async () => {
    const server = fakeServer(start);
    const rigs = useRigStore();
    await rigs.open('arm');
    rigs.commit('a', (d) => void (d.name = 'A'));
    rigs.commit('b', (d) => void (asTree(d.mechanism).joints[2].origin.xyzMm[2] = 133));
    expect(rigs.saveState).toBe('waiting');
    await settled();
    expect(server).toMatchObject({ saves: 1, revision: 2, rig: { name: 'A' } });
    expect(rigs.saveState).toBe('saved');
    expect(localStorage.length).toBe(0);
  });

  it('refuses an edit that would make the document invalid, says why, and keeps everything', async () => {
    const server = fakeServer(start);
    const rigs = useRigStore();
    await rigs.open('arm');
    const before = rigs.rig;
    const result = rigs.commit('loop', (d) => void (asTree(d.mechanism).joints[0].parent = 'elbow'));
    expect(result).toMatchObject({ ok: false, message: expect.stringMatching(/own parent/) });
    expect(rigs.rig).toBe(before);
    await settled();
    expect(server.saves).toBe(0);
    expect(rigs.undoLabel).toBeNull();
  });

  it('keeps parts that an edit did not touch, so that plans need not be made again', async () => {
    fakeServer(start);
    const rigs = useRigStore();
    await rigs.open('arm');
    const { mechanism, rig } = rigs;
    rigs.commit('name', (d) => void (d.name = 'Other'));
    expect(rigs.mechanism).toBe(mechanism);
    expect(rigs.rig!.mechanism).toBe(rig!.mechanism);
  });

  it('undo saves a new, higher revision', async () => {
    const server = fakeServer(start);
    const rigs = useRigStore();
    await rigs.open('arm');
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settled();
    rigs.undo();
    await settled();
    expect(server).toMatchObject({ revision: 3, rig: { name: start.name } });
    rigs.redo();
    await settled();
    expect(server).toMatchObject({ revision: 4, rig: { name: 'A' } });
  });

  it.each(['mine', 'theirs'] as const)('lets the person choose after a clash: %s', async (choice) => {
    const server = fakeServer(start);
    const rigs = useRigStore();
    await rigs.open('arm');
    Object.assign(server, { revision: 5, rig: { ...start, name: 'Theirs' } });
    rigs.commit('a', (d) => void (d.name = 'Mine'));
    await settled();
    expect(rigs.saveState).toBe('conflict');
    await rigs.settle(choice);
    await settled();
    expect(rigs.saveState).toBe('saved');
    expect(rigs.rig!.name).toBe(choice === 'mine' ? 'Mine' : 'Theirs');
    expect(server.rig.name).toBe(rigs.rig!.name);
  });

  it('tries again while the server is away, and finds unsaved edits after the window was closed', async () => {
    const server = fakeServer(start);
    let rigs = useRigStore();
    await rigs.open('arm');
    server.away = true;
    rigs.commit('a', (d) => void (d.name = 'Kept'));
    await settled();
    expect(rigs.saveState).toBe('away');
    // A new window.
    setActivePinia(createPinia());
    rigs = useRigStore();
    server.away = false;
    await rigs.open('arm');
    expect(rigs.rig!.name).toBe('Kept');
    await settled();
    expect(server.rig.name).toBe('Kept');
  });

  it('says so when there is nothing to open', async () => {
    vi.stubGlobal(
      'fetch',
      async () =>
        new Response(JSON.stringify({ code: 'not-found', message: 'There is no rig.', faults: [] }), { status: 404 }),
    );
    const rigs = useRigStore();
    await rigs.open('nothing');
    expect(rigs.loadError).toBe('There is no rig.');
    expect(rigs.rig).toBeNull();
  });
});

describe('two windows on one rig', () => {
  beforeEach(() => {
    // Windows of tests before keep what they have, and are gone.
    window.dispatchEvent(new Event('pagehide'));
    vi.useFakeTimers();
    localStorage.clear();
    sessionStorage.clear();
    setActivePinia(createPinia());
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });
  const open = async () => {
    const rigs = useRigStore();
    await rigs.open('arm');
    return rigs;
  };

  it('takes over what the other one saved while nothing here is unsaved, and undo brings it back', async () => {
    const server = fakeServer(start);
    const rigs = await open();
    rigs.commit('own', (d) => void (d.name = 'Own'));
    await settled();
    Object.assign(server, { revision: 7, rig: { ...server.rig, name: 'Theirs' } });
    await rigs.takeOver();
    expect(rigs).toMatchObject({ saveState: 'saved', revision: 7, undoLabel: 'What another window changed' });
    expect(rigs.rig!.name).toBe('Theirs');
    // Nothing is sent for it.
    await settled();
    expect(server.revision).toBe(7);
    rigs.undo();
    expect(rigs.rig!.name).toBe('Own');
    rigs.undo();
    expect(rigs.rig!.name).toBe(start.name);
    await settled();
    expect(server).toMatchObject({ revision: 8, rig: { name: start.name } });
  });
  it('keeps the plan’s parts where only others differ', async () => {
    const server = fakeServer(start);
    const rigs = await open();
    const { mechanism } = rigs;
    Object.assign(server, { revision: 2, rig: structuredClone({ ...start, name: 'Theirs' }) });
    await rigs.takeOver();
    expect(rigs.rig!.name).toBe('Theirs');
    expect(rigs.mechanism).toBe(mechanism);
  });
  it('leaves unsaved edits alone: they clash when they are saved, and the clash says what differs', async () => {
    const server = fakeServer(start);
    const rigs = await open();
    const elbow = asTree(start.mechanism).joints.findIndex((j) => j.id === 'elbow');
    const theirs = structuredClone(start) as Rig;
    asTree(theirs.mechanism).joints[elbow].origin.xyzMm[2] = 99;
    Object.assign(server, { revision: 3, rig: theirs });
    rigs.commit('a', (d) => void (d.name = 'Mine'));
    await rigs.takeOver();
    expect(rigs.rig!.name).toBe('Mine');
    await settled();
    expect(rigs.saveState).toBe('conflict');
    expect(rigs.clash).toEqual({ places: ['name', 'Elbow: place, up'], more: 0 });
    // Theirs went on meanwhile: the newest is taken.
    Object.assign(server, { revision: 4, rig: { ...theirs, name: 'Newest' } });
    await rigs.settle('theirs');
    expect(rigs).toMatchObject({ saveState: 'saved', revision: 4, saveMessage: '' });
    expect(rigs.rig!.name).toBe('Newest');
    rigs.undo();
    expect(rigs.rig!.name).toBe('Mine');
    expect(asTree(rigs.rig!.mechanism).joints[elbow].origin.xyzMm[2]).not.toBe(99);
  });
  it('what was not kept after a clash can be brought back by undo', async () => {
    const server = fakeServer(start);
    const rigs = await open();
    Object.assign(server, { revision: 5, rig: { ...start, name: 'Theirs' } });
    rigs.commit('a', (d) => void (d.name = 'Mine'));
    await settled();
    await rigs.settle('mine');
    await settled();
    expect(server.rig.name).toBe('Mine');
    rigs.undo();
    expect(rigs.rig!.name).toBe('Theirs');
    await settled();
    expect(server.rig.name).toBe('Theirs');
  });
  it('a draft of an older revision is not sent over what was saved meanwhile', async () => {
    const server = fakeServer(start);
    let rigs = await open();
    server.away = true;
    rigs.commit('a', (d) => void (d.name = 'Draft'));
    await settled();
    Object.assign(server, { away: false, revision: 9, rig: { ...start, name: 'Saved elsewhere' } });
    setActivePinia(createPinia());
    rigs = await open();
    expect(rigs.saveState).toBe('conflict');
    await settled();
    expect(server).toMatchObject({ revision: 9, rig: { name: 'Saved elsewhere' } });
    expect(rigs.clash!.places).toEqual(['name']);
    await rigs.settle('theirs');
    expect(rigs.rig!.name).toBe('Saved elsewhere');
    expect(localStorage.length).toBe(0);
  });
});

describe('undo over a reload', () => {
  beforeEach(() => {
    // Windows of tests before keep what they have, and are gone.
    window.dispatchEvent(new Event('pagehide'));
    vi.useFakeTimers();
    localStorage.clear();
    sessionStorage.clear();
    setActivePinia(createPinia());
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });
  const reload = async () => {
    window.dispatchEvent(new Event('pagehide'));
    setActivePinia(createPinia());
    const rigs = useRigStore();
    await rigs.open('arm');
    return rigs;
  };
  it('goes on where it was, forth and back, over design and build', async () => {
    const server = fakeServer(start);
    let rigs = useRigStore();
    await rigs.open('arm');
    rigs.commit('a', (d) => void (d.name = 'A'));
    rigs.commit('trim', (d) => void (d.builds[0].trims['m-turn'] = 12), 'build');
    rigs.commit('b', (d) => void (asTree(d.mechanism).joints[2].origin.xyzMm[2] = 133));
    rigs.commit('c', (d) => void (d.name = 'C'));
    rigs.undo();
    await settled();
    // The server answers with the document as it was read, not as it was sent.
    const parsed = parseRig(JSON.parse(JSON.stringify(server.rig)));
    if (parsed.ok) server.rig = parsed.value;
    rigs = await reload();
    expect(rigs).toMatchObject({ undoLabel: 'b', redoLabel: 'c', buildUndoLabel: 'trim' });
    rigs.redo();
    expect(rigs.rig!.name).toBe('C');
    rigs.undo();
    rigs.undo();
    rigs.undo();
    expect(rigs.rig!.name).toBe(start.name);
    expect(rigs.rig!.builds[0].trims['m-turn']).toBe(12);
    expect(rigs.undoLabel).toBeNull();
  });
  it('is not taken for another state of the rig', async () => {
    const server = fakeServer(start);
    let rigs = useRigStore();
    await rigs.open('arm');
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settled();
    Object.assign(server, { revision: 9, rig: { ...start, name: 'Other' } });
    rigs = await reload();
    expect(rigs.undoLabel).toBeNull();
    rigs.undo();
    expect(rigs.rig!.name).toBe('Other');
  });
  it('is kept when another rig is opened at once', async () => {
    fakeServer(start);
    const rigs = useRigStore();
    await rigs.open('arm');
    rigs.commit('a', (d) => void (d.name = 'A'));
    await rigs.save();
    await rigs.open('other');
    expect(rigs.undoLabel).toBeNull();
    await rigs.open('arm');
    expect(rigs.undoLabel).toBe('a');
    rigs.undo();
    expect(rigs.rig!.name).toBe(start.name);
  });
  it('is there with edits that were not saved yet', async () => {
    const server = fakeServer(start);
    let rigs = useRigStore();
    await rigs.open('arm');
    server.away = true;
    rigs.commit('a', (d) => void (d.name = 'A'));
    await settled();
    server.away = false;
    rigs = await reload();
    expect(rigs.rig!.name).toBe('A');
    expect(rigs.undoLabel).toBe('a');
    rigs.undo();
    expect(rigs.rig!.name).toBe(start.name);
  });
});
