import { mount } from '@vue/test-utils';
import { describe, expect, it } from 'vitest';
import type { Drawing, Shape } from '@cork-elbow/core/drawing';
import DrawingSvg from './DrawingSvg.vue';

const shape = (cls: string, children?: readonly Shape[]): Shape => ({
  ...{ tag: children ? 'g' : 'line', cls, attrs: children ? {} : { x1: 1, y1: 2, x2: 3, y2: 4 } },
  ...(children ? { children } : {}),
});
const drawingOf = (shapes: readonly Shape[]): Drawing => ({
  ...{ width: 40, height: 30, title: 'An arm', shapes },
  view: {
    kind: 'plan',
    right: [1, 0, 0],
    up: [0, 1, 0],
    origin: [0, 0, 0],
    scale: 1,
    cx: 0,
    cy: 0,
    width: 40,
    height: 30,
  },
});
const classes = (svg: Element): string[] => [...svg.querySelectorAll('*')].map((e) => e.getAttribute('class') ?? '');

describe('a drawing on the page', () => {
  it('is its shapes in their order, whichever of them stay, come, go and change places', async () => {
    const [grid, ground, arm, over] = ['grid', 'ground', 'arm', 'over'].map((cls) => shape(cls));
    const wrapper = mount(DrawingSvg, { props: { drawing: drawingOf([grid, arm]) } });
    for (const shapes of [
      [grid, ground, arm],
      [arm, ground, grid],
      [ground],
      [shape('floor'), grid, shape('arm'), over],
      [grid, shape('arm', [ground, over]), over],
      [],
      [over, grid],
    ]) {
      await wrapper.setProps({ drawing: drawingOf(shapes) });
      expect(classes(wrapper.element)).toEqual(
        shapes.flatMap((s) => [s.cls, ...(s.children ?? []).map((c) => c.cls)]),
      );
    }
  });
  it('looks no second time at what has not changed', async () => {
    let looks = 0;
    const still: Shape = {
      ...shape('grid'),
      get attrs() {
        looks++;
        return { x1: 1 };
      },
    };
    const wrapper = mount(DrawingSvg, { props: { drawing: drawingOf([still, shape('arm')]) } });
    const first = looks;
    expect(first).toBeGreaterThan(0);
    await wrapper.setProps({ drawing: drawingOf([still, { ...shape('arm'), attrs: { x1: 9 } }]) });
    expect(looks).toBe(first);
    expect(wrapper.element.querySelector('.arm')!.getAttribute('x1')).toBe('9');
  });
});
