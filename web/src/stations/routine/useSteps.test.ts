import fc from 'fast-check';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { watch } from 'vue';
import { kilnLoader, tileDipper } from '../../../../demo';
import { structureFindings } from '@cork-elbow/core/routine';
import type { Rig, Step } from '@cork-elbow/core/rig';
import { inComponent, opened } from '../../opened.testkit';
import { createPlan } from '../../workspace/usePlan';
import { firstStep } from './first-steps';
import { createSteps } from './useSteps';

let leave: () => void = () => undefined;
afterEach(() => leave());

async function page(rig: Rig = tileDipper()) {
  const stores = await opened(rig);
  const plan = inComponent(createPlan);
  // The routine's plan is provided from further up the page.
  const steps = inComponent(createSteps, plan.provides);
  leave = () => {
    steps.leave();
    plan.leave();
  };
  return { ...stores, s: steps.made };
}
const ids = (list: readonly Step[]): string[] => list.map((step) => step.id);
const kinds: Step['kind'][] = ['wait', 'joint-move', 'repeat', 'if', 'grip', 'note', 'marker', 'retreat', 'call'];

/** One thing a person does to the list, by a number. */
type Deed = { readonly what: number; readonly where: number; readonly how: number };
const deed: fc.Arbitrary<Deed> = fc.record({ what: fc.nat(9), where: fc.nat(), how: fc.nat() });

describe('editing steps', () => {
  it('any run of edits keeps ids apart and is undone to the last letter, and done again', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(deed, { minLength: 1, maxLength: 14 }), async (deeds) => {
        const { s, rigs } = await page();
        const before = JSON.stringify(rigs.rig);
        for (const { what, where, how } of deeds) {
          const at = s.steps.value[where % Math.max(1, s.steps.value.length)];
          if (at) s.select(at.id, (['alone', 'also', 'range'] as const)[how % 3]);
          if (what === 0) s.insert('Put in', firstStep(kinds[how % kinds.length], rigs.rig!, s.routine.value!));
          if (what === 1) s.remove();
          if (what === 2) s.cut();
          if (what === 3) s.copy();
          if (what === 4) await s.paste();
          if (what === 5) s.skip();
          if (what === 6) s.move(how % 2 ? 1 : -1);
          if (what === 7 && at) s.fold(at.id);
          if (what === 8) s.arrange([...ids(s.steps.value)].reverse());
          if (what === 9) s.selectAll();
          const now = ids(s.steps.value);
          expect(new Set(now).size).toBe(now.length);
          for (const id of s.chosen.value) expect(now).toContain(id);
        }
        const after = JSON.stringify(rigs.rig);
        for (let k = 0; k < 40 && rigs.undoLabel; k++) rigs.undo();
        expect(JSON.stringify(rigs.rig)).toBe(before);
        for (let k = 0; k < 40 && rigs.redoLabel; k++) rigs.redo();
        expect(JSON.stringify(rigs.rig)).toBe(after);
        leave();
      }),
    );
  });

  it('what opens is put in with its end, chosen itself, and what follows goes inside', async () => {
    const { s, rigs } = await page();
    s.select(s.steps.value[0].id);
    s.insert('Repeat', firstStep('repeat', rigs.rig!, s.routine.value!));
    const [first, opener, end] = s.steps.value;
    expect([opener.kind, end.kind]).toEqual(['repeat', 'end']);
    expect([...s.chosen.value]).toEqual([opener.id]);
    s.insert('Wait', firstStep('wait', rigs.rig!, s.routine.value!));
    expect(s.steps.value.slice(0, 4).map((step) => step.kind)).toEqual([first.kind, 'repeat', 'wait', 'end']);
    expect(s.rows.value[2].depth).toBe(1);
    expect(structureFindings(rigs.rig!, s.routine.value!)).toEqual([]);
  });

  it('a folded opener is cut, moved and deleted with all that is inside it', async () => {
    const { s, rigs } = await page();
    const whole = ids(s.steps.value);
    s.select(whole[0]);
    s.insert('Repeat', firstStep('repeat', rigs.rig!, s.routine.value!));
    const { id } = s.steps.value[1];
    s.insert('Wait', firstStep('wait', rigs.rig!, s.routine.value!));
    s.select(id);
    s.fold(id);
    expect(s.rows.value.find((row) => row.step.id === id)).toMatchObject({ isFolded: true, inside: 1 });
    expect(s.rows.value).toHaveLength(whole.length + 1);
    s.move(1);
    expect(s.steps.value.slice(1, 5).map((step) => step.kind)).toEqual([
      rigs.rig!.routines[0].steps[1].kind,
      'repeat',
      'wait',
      'end',
    ]);
    s.select(id);
    s.cut();
    expect(ids(s.steps.value)).toEqual(whole);
    await s.paste();
    expect(s.steps.value).toHaveLength(whole.length + 3);
  });

  it('a range is chosen from where the last one stood, and all of it is skipped and used again', async () => {
    const { s } = await page();
    const all = ids(s.steps.value);
    s.select(all[5]);
    s.select(all[2], 'range');
    expect([...s.chosen.value].sort()).toEqual(all.slice(2, 6).sort());
    s.skip();
    expect(s.steps.value.filter((step) => !step.enabled).map((step) => step.id)).toEqual(all.slice(2, 6));
    s.skip();
    expect(s.steps.value.every((step) => step.enabled)).toBe(true);
  });

  it('after a deletion the next step is chosen, at the end the one before', async () => {
    const { s } = await page();
    const all = ids(s.steps.value);
    s.select(all[3]);
    s.remove();
    expect(s.current.value).toBe(all[4]);
    s.select(all.at(-1)!);
    s.remove();
    expect(s.current.value).toBe(all.at(-2));
  });

  it('the list shows what is searched for, by words of the step or of its note', async () => {
    const { s, rigs } = await page(kilnLoader());
    const total = s.rows.value.length;
    s.search.value = 'wait';
    expect(s.rows.value.length).toBeGreaterThan(0);
    expect(s.rows.value.length).toBeLessThan(total);
    const [first] = s.steps.value;
    s.search.value = 'glowing embers';
    expect(s.rows.value).toHaveLength(0);
    s.select(first.id);
    s.edit('Note', (step) => void (step.note = 'Mind the glowing embers'));
    expect(s.rows.value.map((row) => row.step.id)).toEqual([first.id]);
    expect(rigs.undoLabel).toBe('Note');
  });

  it('a change that the document refuses is said in one sentence and changes nothing', async () => {
    const { s, rigs } = await page();
    s.select(s.steps.value[0].id);
    const before = rigs.rig;
    const said = s.edit('Speed', (step) => void ((step as { pace: unknown }).pace = { speedShare: 7 }));
    expect(said).toMatch(/^[^\n]+\.$/);
    expect(s.problem.value).toBe(said);
    expect(rigs.rig).toBe(before);
  });

  it('other text on the clipboard is not taken for steps', async () => {
    const { s } = await page();
    const before = s.steps.value.length;
    Object.defineProperty(navigator, 'clipboard', {
      configurable: true,
      value: {
        readText: async () => '{"cork-elbow-steps":[{"kind":"no such step"}]}',
        writeText: async () => undefined,
      },
    });
    await s.paste();
    expect(s.steps.value).toHaveLength(before);
    Object.defineProperty(navigator, 'clipboard', { configurable: true, value: undefined });
  });
});

describe('choosing a step', () => {
  /** A page whose plan is there; pictures come one at a time when they are asked for. */
  async function planned() {
    const stores = await opened(tileDipper());
    const plan = inComponent(createPlan);
    const steps = inComponent(createSteps, plan.provides);
    leave = () => {
      steps.leave();
      plan.leave();
      vi.unstubAllGlobals();
    };
    await vi.waitUntil(() => plan.made.plan.value !== null, { timeout: 60_000 });
    const waiting = new Map<number, FrameRequestCallback>();
    let no = 0;
    vi.stubGlobal('requestAnimationFrame', (f: FrameRequestCallback) => (waiting.set(++no, f), no));
    vi.stubGlobal('cancelAnimationFrame', (id: number) => void waiting.delete(id));
    const picture = (): void => {
      const due = [...waiting.values()];
      waiting.clear();
      for (const f of due) f(performance.now());
    };
    const { steps: timed } = plan.made.plan.value!;
    const endOf = (id: string): number => timed.find((t) => t.stepId === id)!.endS;
    return { ...stores, s: steps.made, plan: plan.made, picture, endOf, moves: timed.map(({ stepId }) => stepId) };
  }
  it('shows the choice first, then the arm where the step ends; of steps gone over quickly the last', async () => {
    const { s, plan, picture, endOf, moves } = await planned();
    const shown = vi.fn<(s: number) => void>();
    watch(plan.time, shown, { flush: 'sync' });
    for (const id of moves.slice(1, 5)) s.select(id);
    expect(s.selected.value?.id).toBe(moves[4]);
    expect(shown).not.toHaveBeenCalled();
    picture();
    picture();
    expect(shown.mock.calls.map(([t]) => t)).toEqual([endOf(moves[4])]);
  });
  it('stops what plays, and does not jump away from what has been played since', async () => {
    const { s, plan, picture, endOf, moves } = await planned();
    plan.play();
    s.select(moves[3]);
    expect(plan.isPlaying.value).toBe(false);
    plan.play();
    picture();
    picture();
    expect(plan.isPlaying.value).toBe(true);
    expect(plan.time.value).toBeLessThan(endOf(moves[3]) / 2);
  });
});
