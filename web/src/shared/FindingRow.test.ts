import { mount } from '@vue/test-utils';
import PrimeVue from 'primevue/config';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { checkWiring } from '@cork-elbow/core/wiring';
import { fixOf } from '@cork-elbow/core/routine';
import type { Rig } from '@cork-elbow/core/rig';
import { opened } from '../opened.testkit';
import FindingRow from './FindingRow.vue';

async function row() {
  const rig = structuredClone(tileDipper()) as Rig;
  // Two motors on one pin: that has a mend of its own.
  rig.wiring[1].channel = rig.wiring[0].channel;
  const stores = await opened(rig);
  const finding = checkWiring(stores.rigs.rig!, stores.mechanism, stores.rigs.driven).find(
    (f) => f.code === 'channel-twice',
  )!;
  const wrapper = mount(FindingRow, { props: { finding }, global: { plugins: [PrimeVue] } });
  return { ...stores, finding, wrapper };
}

describe('a finding with a mend', () => {
  it('is mended by its button, as an edit that can be undone', async () => {
    const { rigs, wrapper, finding } = await row();
    const label = fixOf(rigs.rig!, finding)!.label;
    const button = wrapper.findAll('button').find((b) => b.text() === label)!;
    await button.trigger('click');
    expect(rigs.rig!.wiring[1].channel).not.toBe(rigs.rig!.wiring[0].channel);
    expect(rigs.undoLabel).toBe(label);
    rigs.undo();
    expect(rigs.rig!.wiring[1].channel).toBe(rigs.rig!.wiring[0].channel);
  });
  it('says why where the mend is refused, until one is taken', async () => {
    const { rigs, wrapper, finding } = await row();
    const { label } = fixOf(rigs.rig!, finding)!;
    const { commit } = rigs;
    rigs.commit = () => ({ ok: false, message: 'That pin is gone.' });
    const button = wrapper.findAll('button').find((b) => b.text() === label)!;
    await button.trigger('click');
    expect(wrapper.get('[role=alert]').text()).toBe('That pin is gone.');
    rigs.commit = commit;
    await button.trigger('click');
    expect(wrapper.find('[role=alert]').exists()).toBe(false);
  });
  it('goes to where it is mended by hand', async () => {
    const { wrapper, finding } = await row();
    await wrapper.findAll('button').at(-1)!.trigger('click');
    expect(wrapper.emitted('go')).toEqual([[finding]]);
  });
});
