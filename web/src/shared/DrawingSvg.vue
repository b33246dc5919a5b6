<script lang="ts">
/**
 * Renders a drawing of the core as SVG; the same list of shapes that is exported as a file. A shape that is the very same as in the
 * picture before is not looked at again: of a moving arm only what moved is drawn.
 */
import { defineComponent, h, type PropType, type VNode } from 'vue';
import type { Drawing, Shape } from '@cork-elbow/core/drawing';

const node = (shape: Shape, key: number): VNode =>
  h(shape.tag, { key, class: shape.cls, ...shape.attrs }, shape.children ? shape.children.map(node) : shape.text);

export default defineComponent({
  props: { drawing: { type: Object as PropType<Drawing>, required: true } },
  setup(props) {
    let before = new Map<Shape, { readonly at: number; readonly node: VNode }>();
    return () => {
      const { width, height, shapes, title } = props.drawing;
      const drawn: typeof before = new Map();
      const nodes = shapes.map((shape, at) => {
        const kept = before.get(shape);
        const own = kept?.at === at ? kept : { at, node: node(shape, at) };
        drawn.set(shape, own);
        return own.node;
      });
      before = drawn;
      return h(
        'svg',
        { class: 'drawing', viewBox: `0 0 ${width} ${height}`, role: 'img', 'aria-label': title },
        nodes,
      );
    };
  },
});
</script>
