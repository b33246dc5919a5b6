import { mount } from '@vue/test-utils';
import { describe, expect, it, vi } from 'vitest';
import NumberField from './NumberField.vue';

const field = (extra: object = {}) => {
  const commit = vi.fn<(v: number) => string | void>();
  const wrapper = mount(NumberField as never, {
    props: { value: 140, dimension: 'length', label: 'Upper arm', commit, ...extra } as never,
  });
  const input = wrapper.get('input');
  return {
    commit,
    wrapper,
    input,
    async type(text: string) {
      await input.setValue(text);
      await input.trigger('keydown', { key: 'Enter' });
    },
  };
};

describe('the number field', () => {
  it('takes sums and units', async () => {
    const f = field();
    await f.type('62 + 38');
    await f.type('5.5 in');
    expect(f.commit.mock.calls.map(([v]) => v)).toEqual([100, expect.closeTo(139.7, 9)]);
  });
  it('keeps what was typed and says one sentence when it is refused', async () => {
    const f = field({ min: 1, max: 500 });
    await f.type('900');
    expect(f.commit).not.toHaveBeenCalled();
    expect(f.wrapper.get('[role=alert]').text()).toBe('Upper arm is 900 mm; 1 mm to 500 mm is allowed.');
    expect((f.input.element as HTMLInputElement).value).toBe('900');
    await f.input.trigger('keydown', { key: 'Escape' });
    expect((f.input.element as HTMLInputElement).value).toBe('140');
    expect(f.wrapper.find('[role=alert]').exists()).toBe(false);
  });
  it('is empty where nothing is known, commits nothing when it is left like that, and what is typed', async () => {
    const f = field({ value: 0, unset: 'unknown' });
    const element = f.input.element as HTMLInputElement;
    expect([element.value, element.placeholder]).toEqual(['', '–']);
    await f.input.trigger('focus');
    await f.type('');
    expect(f.commit).not.toHaveBeenCalled();
    expect(f.wrapper.find('[role=alert]').exists()).toBe(false);
    await f.type('12');
    expect(f.commit.mock.calls).toEqual([[12]]);
    await f.wrapper.setProps({ value: 12, unset: null } as never);
    expect([element.value, element.placeholder]).toEqual(['12', '']);
  });
  it('shows the document’s refusal the same way', async () => {
    const f = field({ commit: () => 'Not now.' });
    await f.type('12');
    expect(f.wrapper.get('[role=alert]').text()).toBe('Not now.');
  });
  it('steps by arrow keys, inside its range', async () => {
    const f = field({ max: 145 });
    await f.input.trigger('keydown', { key: 'ArrowUp' });
    await f.input.trigger('keydown', { key: 'ArrowUp', shiftKey: true });
    await f.input.trigger('keydown', { key: 'ArrowDown', altKey: true });
    expect(f.commit.mock.calls.map(([v]) => v)).toEqual([141, 145, 139.9]);
  });
});
