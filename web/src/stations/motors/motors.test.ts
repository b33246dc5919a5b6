import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { nextTick, ref } from 'vue';
import { kilnLoader, tileDipper } from '../../../../demo';
import { catalogue, nativeAt } from '@cork-elbow/core/actuators';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Motion } from '@cork-elbow/core/motion';
import { CATALOGUE_FORMAT, type CatalogueEntry } from '@cork-elbow/core/rig';
import { inComponent, opened } from '../../opened.testkit';
import { useCatalogue } from '../../shared/useCatalogue';
import { useMotor } from './useMotor';
import { useSweep } from './useSweep';
import { useTimeline } from '../../workspace/useTimeline';
import { NONE, orNull, useWiring } from './wiring/useWiring';
import { tipPerUnit } from './tip';

const left: (() => void)[] = [];
afterEach(() => {
  left.splice(0).forEach((leave) => leave());
});
function inside<T>(make: () => T): T {
  const { made, leave } = inComponent(make);
  left.push(leave);
  return made;
}

describe('the motors joint by joint', () => {
  it('are one row a joint, each with its motor, its wire and what it is sent now', async () => {
    const { rigs, view, mechanism } = await opened(tileDipper());
    const { rows, nowOf } = inside(useMotor);
    expect(rows.value.map((r) => r.info.id)).toEqual([...mechanism.slotIds]);
    for (const r of rows.value) {
      expect(r.drive?.id).toBe(`m-${r.info.id}`);
      expect(r.wire?.drive).toBe(r.drive!.id);
      const map = rigs.driven.find((m) => m.drive.id === r.drive!.id)!;
      expect(nowOf(r)).toBe(`${nativeAt(map, mechanism, view.q)} µs`);
      expect(r.value).toBeCloseTo(view.q[r.info.slot] / mechanism.siPerUnit[r.info.slot], 12);
    }
  });
  it('of a mixed pair name each joint’s own motor', async () => {
    await opened(kilnLoader());
    const { rows } = inside(useMotor);
    const of = (joint: string): string | undefined => rows.value.find((r) => r.info.id === joint)?.drive?.id;
    expect([of('nod'), of('spin')]).toEqual(['m-nod', 'm-spin']);
  });
  it('follow the chosen joint, and edit its motor and no other', async () => {
    const { rigs, view } = await opened(tileDipper());
    const { row, onDrive, onTie, onBuild } = inside(useMotor);
    expect(row.value!.info.slot).toBe(0);
    view.selected = 'elbow';
    const before = structuredClone(rigs.rig!);
    onDrive('Torque', (drive) => ((drive as { updateHz: number }).updateHz = 100));
    expect(
      rigs
        .rig!.drives.filter(
          (d, k) => d !== before.drives[k] && JSON.stringify(d) !== JSON.stringify(before.drives[k]),
        )
        .map((d) => d.id),
    ).toEqual(['m-elbow']);
    onTie('Reduction', (tie) => ((tie as { reduction: number }).reduction = 2));
    expect(rigs.rig!.transmissions.find((t) => t.joints[0] === 'elbow')).toMatchObject({ reduction: 2 });
    onBuild('Trim', (build) => (build.trims['m-elbow'] = 7));
    expect(rigs.build!.trims['m-elbow']).toBe(7);
    rigs.undo();
    rigs.undo();
    rigs.undo('build');
    expect(rigs.rig).toEqual(before);
  });
  it('give back the sentence of an edit that is refused, and keep the rig', async () => {
    const { rigs, view } = await opened(tileDipper());
    view.selected = 'elbow';
    const { onDrive } = inside(useMotor);
    const before = rigs.rig;
    const said = onDrive('Pulses', (drive) => ((drive as { minUs: number }).minUs = 9000));
    expect(said).toMatch(/\.$/);
    expect(rigs.rig).toBe(before);
  });
  it('say how far a degree goes at the tip: the way it moves for one', async () => {
    const { mechanism } = await opened(tileDipper());
    const slot = mechanism.slotOf.get('turn')!;
    const q = mechanism.home;
    const tip = tipPerUnit(mechanism, slot, q)!;
    // Radius of the tip round the turntable, times a degree.
    expect(tip).toBeGreaterThan(0);
    expect(tipPerUnit(mechanism, mechanism.slotOf.get('jaw')!, q)).toBeNull();
  });
});

describe('the catalogue of motors', () => {
  let kept: CatalogueEntry[];
  let refuse = false;
  beforeEach(async () => {
    await opened(tileDipper());
    kept = [];
    refuse = false;
    vi.stubGlobal('fetch', async (path: string, init?: RequestInit) => {
      if (refuse)
        return new Response(JSON.stringify({ message: 'The disk is full.', code: 'x', faults: [] }), { status: 507 });
      if (init?.method === 'PUT')
        for (const m of (JSON.parse(init.body as string) as { motors: CatalogueEntry[] }).motors)
          kept = [...kept.filter((k) => k.id !== m.id), m];
      if (init?.method === 'DELETE') {
        kept = kept.filter((k) => !path.endsWith(k.id));
        return new Response(null, { status: 204 });
      }
      return new Response(JSON.stringify({ motors: kept }));
    });
  });
  const drive = { ...tileDipper().drives[0], model: 'garden servo, 40 g' };
  it('keeps a person’s own kind under the words they gave it, once, and takes it out again', async () => {
    const own = inside(useCatalogue);
    await own.keep(drive);
    expect(own.own.value.map((e) => [e.id, e.words])).toEqual([['own-garden-servo-40-g', 'garden servo, 40 g']]);
    expect(own.find('own-garden-servo-40-g')!.figures).not.toHaveProperty('name');
    expect(own.entries.value.length).toBe(catalogue.length + 1);
    // The same words again are the same kind with other figures.
    await own.keep({ ...drive, massG: 41 } as typeof drive);
    expect(own.own.value).toHaveLength(1);
    expect(own.own.value[0].figures).toMatchObject({ massG: 41 });
    await own.remove('own-garden-servo-40-g');
    expect(own.own.value).toEqual([]);
  });
  it('goes out as a file and comes back the same', async () => {
    const own = inside(useCatalogue);
    await own.keep(drive);
    const text = own.asText();
    expect(JSON.parse(text)).toMatchObject({ format: CATALOGUE_FORMAT, version: 1 });
    const before = own.own.value;
    await own.remove(before[0].id);
    await own.importText(text);
    expect(own.own.value).toEqual(before);
    expect(own.problem.value).toBe('');
  });
  it.each([
    ['no JSON at all', 'turn left', /not JSON/],
    ['another kind of file', '{"format":"letters","version":1,"motors":[]}', /^No motor was taken: /],
    [
      'a motor without figures',
      `{"format":"${CATALOGUE_FORMAT}","version":1,"motors":[{"id":"a","words":"b"}]}`,
      /^No motor was taken: /,
    ],
    ['no motor', `{"format":"${CATALOGUE_FORMAT}","version":1,"motors":[]}`, /There is no motor/],
  ])('takes nothing from a file with %s, and says so in a sentence', async (_, text, sentence) => {
    const own = inside(useCatalogue);
    await own.keep(drive);
    await own.importText(text);
    expect(own.problem.value).toMatch(sentence);
    expect(own.problem.value).toMatch(/\.$/);
    expect(own.own.value).toHaveLength(1);
    await own.keep(drive);
    expect(own.problem.value).toBe('');
    await own.remove(own.own.value[0].id);
  });
  it('says what the server said where it refused, and keeps what it had', async () => {
    const own = inside(useCatalogue);
    await own.keep(drive);
    refuse = true;
    await own.keep({ ...drive, model: 'another' });
    expect(own.problem.value).toBe('The disk is full.');
    expect(own.own.value).toHaveLength(1);
    refuse = false;
    await own.remove(own.own.value[0].id);
  });
});

describe('wiring choices', () => {
  it('show the pins that can do it first, each with what speaks against it', async () => {
    await opened(kilnLoader());
    const { pinsFor, rig, boards, rails } = inside(useWiring);
    const board = rig.value.boards[0];
    const list = pinsFor(board, ['output'], null);
    expect(list).toHaveLength(board.pins.length);
    const cannot = list.findIndex((o) => o.label.includes('cannot'));
    expect(list.slice(0, cannot === -1 ? undefined : cannot).every((o) => !o.label.includes('cannot'))).toBe(true);
    if (cannot >= 0) expect(list.slice(cannot).every((o) => o.label.includes('cannot'))).toBe(true);
    const used = rig.value.signals.find((s) => s.board === board.id && s.channel !== null)!;
    const label = (own: number | null): string =>
      pinsFor(board, ['input', 'output'], own).find((o) => o.value === String(used.channel))!.label;
    expect(label(null)).toContain('taken');
    expect(label(used.channel)).not.toContain('taken');
    expect(pinsFor(undefined, ['input'], null)).toEqual([]);
    expect(pinsFor(undefined, ['input'], null, true)[0].value).toBe(NONE);
    expect(boards.value.map((b) => orNull(b.value))).toEqual([null, ...rig.value.boards.map((b) => b.id)]);
    expect(rails.value).toHaveLength(rig.value.rails.length + 1);
  });
  it('keep the sentence of a refused change until one is taken', async () => {
    await opened(kilnLoader());
    const { change, problem, rigs, newId } = inside(useWiring);
    const before = rigs.rig;
    change('Board', (draft) => (draft.wiring[0].board = 'nowhere'));
    expect(problem.value).toMatch(/\.$/);
    expect(rigs.rig).toBe(before);
    change('Note', (draft) => (draft.wiring[0].note = 'twisted'));
    expect(problem.value).toBe('');
    expect(newId('Pump relay', [{ id: 'pump-relay' }])).toBe('pump-relay-2');
  });
});

describe('playing a timeline', () => {
  const frames = {
    requestAnimationFrame: globalThis.requestAnimationFrame,
    cancelAnimationFrame: globalThis.cancelAnimationFrame,
  };
  afterEach(() => void Object.assign(globalThis, frames));
  let frame: ((t: number) => void) | null;
  beforeEach(() => {
    frame = null;
    vi.stubGlobal('requestAnimationFrame', (f: (t: number) => void) => ((frame = f), 1));
    vi.stubGlobal('cancelAnimationFrame', () => (frame = null));
  });
  const tick = async (t: number): Promise<void> => {
    const due = frame;
    frame = null;
    due?.(t);
    await nextTick();
  };
  /** The first joint turns a tenth of a rad in a second. */
  const turning = ({ home }: Mechanism, durationS: number): Motion => ({
    durationS,
    start: home,
    sampleInto(position, speed, accel, t) {
      position.set(home);
      position[0] = t / 10;
      speed.fill(0);
      accel.fill(0);
    },
  });
  it('shows each moment once, at the speed asked for, ends at the end and can begin again', async () => {
    const { view, mechanism } = await opened(tileDipper());
    const line = inside(() => useTimeline(ref(turning(mechanism, 2))));
    vi.spyOn(performance, 'now').mockReturnValue(1000);
    line.play();
    await tick(1080);
    expect(line.time.value).toBeCloseTo(0.08, 9);
    expect(view.q[0]).toBeCloseTo(0.008, 9);
    line.speed.value = 10;
    await tick(1160);
    expect(line.time.value).toBeCloseTo(0.88, 9);
    // A machine that slept goes on where it was.
    await tick(60_000);
    expect(line.time.value).toBeCloseTo(0.88, 9);
    await tick(60_100);
    expect(line.time.value).toBeCloseTo(1.88, 9);
    await tick(60_150);
    expect(line.time.value).toBe(2);
    expect(line.isPlaying.value).toBe(false);
    line.play();
    vi.mocked(performance.now).mockRestore();
    expect(line.time.value).toBe(0);
    line.pause();
    line.show(1);
    line.leave();
    expect(line.time.value).toBe(0);
    expect(view.q).toEqual(view.editQ);
  });
  it('begins anew when what is played changes', async () => {
    const { mechanism } = await opened(tileDipper());
    const motion = ref(turning(mechanism, 2));
    const line = inside(() => useTimeline(motion));
    line.show(1.2);
    motion.value = turning(mechanism, 3);
    await nextTick();
    expect(line.time.value).toBe(0);
  });
});

describe('what is touched on the way in', () => {
  it('is unknown at first, then known, and unknown again after an edit', async () => {
    const { rigs } = await opened(tileDipper());
    const wanted = ref<ReturnType<Parameters<typeof useSweep>[0]>>({ kind: 'power-up', planned: true });
    const contacts = inside(() => useSweep(() => wanted.value));
    const known = async (): Promise<void> => {
      for (let k = 0; k < 3000 && contacts.value === null; k++) await new Promise((next) => setTimeout(next, 2));
    };
    await known();
    expect(Array.isArray(contacts.value)).toBe(true);
    rigs.commit('Name', (draft) => void (draft.name = 'Other'));
    await nextTick();
    expect(contacts.value).toBeNull();
    await known();
    expect(contacts.value).not.toBeNull();
    wanted.value = null;
    await nextTick();
    expect(contacts.value).toBeNull();
  });
});
