import { flushPromises, mount } from '@vue/test-utils';
import { beforeEach, describe, expect, it } from 'vitest';
import { defineComponent, h } from 'vue';
import { createMemoryHistory, createRouter, type LocationQueryRaw } from 'vue-router';
import { stationIds, stationParts, type StationId } from '@cork-elbow/core/findings';
import { partsOf, questionOf, stationList } from './stations';
import { useParts } from './useParts';

/** A station's part as a page has it, arrived at by an address. */
async function at(station: StationId, query: LocationQueryRaw = {}) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { template: '' } }],
  });
  await router.push({ path: '/', query });
  let made!: ReturnType<typeof useParts>;
  const page = mount(
    defineComponent({
      setup() {
        made = useParts(station);
        return () => h('i');
      },
    }),
    { global: { plugins: [router] } },
  );
  await flushPromises();
  return { ...made, router, page };
}
beforeEach(() => sessionStorage.clear());

describe('the list of stations', () => {
  it('describes every station and part that a finding may name, in the order of the work', () => {
    expect(stationList.map(({ id }) => id)).toEqual(stationIds);
    for (const { id, question } of stationList) {
      expect(question).toMatch(/\?$/);
      expect(questionOf(id)).toBe(question);
      expect(partsOf(id).map((part) => part.id)).toEqual([...stationParts[id]]);
    }
  });
});

describe('the part on show', () => {
  it('is the one that a finding names, of any station with parts', async () => {
    for (const { id } of stationList)
      for (const wished of partsOf(id)) {
        const { part, page } = await at(id, { part: wished.id });
        expect([id, part.value]).toEqual([id, wished.id]);
        page.unmount();
      }
  });
  it('is the first where a joint or a step is named alone, and stays where nothing is', async () => {
    const first = await at('motors', { part: 'rails' });
    first.page.unmount();
    const again = await at('motors');
    expect(again.part.value).toBe('rails');
    await again.router.push({ path: '/', query: { part: 'nonsense' } });
    expect(again.part.value).toBe('rails');
    await again.router.push({ path: '/', query: { joint: 'elbow' } });
    await flushPromises();
    expect(again.part.value).toBe('joints');
    again.page.unmount();
    const step = await at('routine', { step: 's1', part: 'smoothing' });
    expect(step.part.value).toBe('smoothing');
    await step.router.push({ path: '/', query: { step: 's1' } });
    await flushPromises();
    expect(step.part.value).toBe('steps');
    step.page.unmount();
  });
  it('begins with the first where what was kept is no part any more', async () => {
    sessionStorage.setItem('cork-elbow:motors-part', 'motor');
    const { part, page } = await at('motors');
    expect(part.value).toBe('joints');
    page.unmount();
  });
});
