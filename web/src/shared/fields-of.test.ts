import { mount } from '@vue/test-utils';
import { defineComponent, h, nextTick, reactive } from 'vue';
import { expect, it, vi } from 'vitest';
import { fieldsAreOf } from './fields-of';
import NumberField from './NumberField.vue';
import TextField from './TextField.vue';

/** A form that stays while another thing is chosen; its two things have the same values. */
const form = () => {
  const shown = reactive({ id: 'one' });
  const taken = vi.fn<(who: string, value: unknown) => void>();
  const refuse = (value: unknown): string => (taken(shown.id, value), 'Not like that.');
  const Form = defineComponent(() => {
    fieldsAreOf(() => shown.id);
    return () => [
      h(NumberField, { value: 40, dimension: 'length', label: 'Approach', max: 50, commit: refuse }),
      h(TextField, { value: 'slow', label: 'Note', commit: refuse }),
    ];
  });
  return { shown, taken, wrapper: mount(Form) };
};

it('lets nothing that was typed for one thing arrive in the next', async () => {
  const { shown, taken, wrapper } = form();
  const [number, text] = wrapper.findAll('input');
  await number.setValue('49');
  await number.trigger('blur');
  await text.setValue('quick');
  await text.trigger('blur');
  expect(taken.mock.calls).toEqual([
    ['one', 49],
    ['one', 'quick'],
  ]);
  expect(wrapper.findAll('[role=alert]')).toHaveLength(2);
  shown.id = 'two';
  await nextTick();
  expect(wrapper.findAll('[role=alert]')).toHaveLength(0);
  expect([number.element.value, text.element.value]).toEqual(['40', 'slow']);
  await number.trigger('blur');
  await text.trigger('blur');
  expect(taken).toHaveBeenCalledTimes(2);
});
