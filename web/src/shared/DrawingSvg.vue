<script lang="ts">
/** Renders a drawing of the core as SVG; the same list of shapes that is exported as a file. */
import { defineComponent, h, type PropType, type VNode } from 'vue';
import type { Drawing, Shape } from '@cork-elbow/core/drawing';

const node = (shape: Shape, key: number): VNode =>
  h(shape.tag, { key, class: shape.cls, ...shape.attrs }, shape.children ? shape.children.map(node) : shape.text);

export default defineComponent({
  props: { drawing: { type: Object as PropType<Drawing>, required: true } },
  render() {
    const { width, height, shapes, title } = this.drawing;
    return h(
      'svg',
      { class: 'drawing', viewBox: `0 0 ${width} ${height}`, role: 'img', 'aria-label': title },
      shapes.map(node),
    );
  },
});
</script>
