/** Composables and parts of the page under test: a rig opened from no server, and the worker's computation in the page. */
import { mount, type VueWrapper } from '@vue/test-utils';
import { createPinia, setActivePinia } from 'pinia';
import { vi } from 'vitest';
import { defineComponent, h } from 'vue';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { useRigStore } from './stores/rig';
import { useViewStore } from './stores/view';

/** Opens a rig in fresh stores; what is saved goes nowhere. */
export async function opened(rig: Rig, id = 'arm') {
  localStorage.clear();
  sessionStorage.clear();
  setActivePinia(createPinia());
  vi.stubGlobal('fetch', async (_url: string, init?: RequestInit) => {
    const sent = init?.body ? (JSON.parse(init.body as string) as { rig?: unknown }).rig : undefined;
    return new Response(JSON.stringify({ id, revision: 1, updatedAt: '2026-01-01T00:00:00.000Z', rig: sent ?? rig }));
  });
  const rigs = useRigStore();
  const view = useViewStore();
  await rigs.open(id);
  return { rigs, view, mechanism: rigs.mechanism! };
}

interface InComponent<T> {
  readonly made: T;
  /** What it provides to components below it. */
  readonly provides: Record<symbol, unknown>;
  leave(): void;
}
/** What `make` returns, made inside a component as composables are; `leave` takes the component down. */
export function inComponent<T>(make: () => T, provide: Record<symbol, unknown> = {}): InComponent<T> {
  let made: T;
  const wrapper: VueWrapper = mount(
    defineComponent({
      setup() {
        made = make();
        return () => h('div');
      },
    }),
    { global: { provide } },
  );
  const { provides } = wrapper.vm.$ as unknown as { provides: Record<symbol, unknown> };
  const own = Object.fromEntries(Object.getOwnPropertySymbols(provides).map((key) => [key, provides[key]]));
  return { made: made!, provides: own, leave: () => wrapper.unmount() };
}

/** A rig from the server's own reader, so that no test works on a document that the page would refuse. */
export function checked(rig: unknown): Rig {
  const parsed = parseRig(rig);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return parsed.value;
}
