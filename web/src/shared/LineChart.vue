<script setup lang="ts">
/** A chart over time in the bench book's style: joint colours with their dash patterns, no animation. */
import { formatFixed } from '@cork-elbow/core/units';
import {
  CategoryScale,
  Chart,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from 'chart.js';
import { computed, onBeforeUnmount, onMounted, shallowRef, useTemplateRef, watch } from 'vue';
import { useViewStore } from '../stores/view';

export interface Series {
  readonly label: string;
  /** Number of the joint colour, 1 to 8. */
  readonly colour: number;
  /** Whose it is, where it is a joint's: its mark stands in the key. */
  readonly slot?: number;
  readonly dash?: number[];
  readonly width?: number;
  /** Its own unit, where it is not the chart's: drawn on an axis of that unit. */
  readonly unit?: string;
  readonly points: readonly { x: number; y: number }[];
}

Chart.register(LineController, LineElement, PointElement, LinearScale, CategoryScale, Legend, Tooltip);
const {
  series,
  unit,
  xUnit = 's',
  label,
  cursor,
  minX = 0,
  maxX,
} = defineProps<{
  series: readonly Series[];
  unit: string;
  /** Of the axis along the bottom. */
  xUnit?: string;
  label: string;
  /** Where a line stands across it: read by the chart alone, so that who shows it is not drawn anew at every frame. */
  cursor?: () => number;
  minX?: number;
  maxX?: number;
}>();
const emit = defineEmits<{ pick: [time: number] }>();
const canvas = useTemplateRef('canvas');
const view = useViewStore();
let chart: Chart | null = null;

/** What a chart's colours are named, looked up once a name and drawing. */
function palette(): (name: string) => string {
  const style = getComputedStyle(document.documentElement);
  const known = new Map<string, string>();
  return (name) => {
    if (!known.has(name)) known.set(name, style.getPropertyValue(name).trim());
    return known.get(name)!;
  };
}

/** Where the lines are drawn (px), and what of time that is. */
const area = shallowRef<{
  left: number;
  right: number;
  top: number;
  bottom: number;
  from: number;
  to: number;
} | null>(null);
const keepArea = {
  id: 'area',
  afterLayout({ chartArea: { left, right, top, bottom }, scales }: Chart) {
    area.value = { left, right, top, bottom, from: scales.x.min, to: scales.x.max };
  },
};
const cursorStyle = computed(() => {
  if (!area.value || !cursor) return null;
  const { left, right, top, bottom, from, to } = area.value;
  const share = (cursor() - from) / (to - from);
  return share >= 0 && share <= 1
    ? { transform: `translateX(${left + share * (right - left)}px)`, top: `${top}px`, height: `${bottom - top}px` }
    : null;
});

/** Units of the series, one axis each: the first on the left, a second on the right. */
const axes = computed(() => {
  const own = [...new Set(series.map((s) => s.unit ?? unit))];
  return own.length ? own : [unit];
});

function datasets() {
  const css = palette();
  return series.map((s) => ({
    label: s.label,
    data: s.points as { x: number; y: number }[],
    borderColor: css(`--j${s.colour}`),
    borderDash: s.dash ?? [],
    borderWidth: s.width ?? 1.8,
    pointRadius: 0,
    tension: 0,
    yAxisID: s.unit ?? unit,
  }));
}
function build(): void {
  chart?.destroy();
  if (!canvas.value) return;
  const css = palette();
  const ink = css('--ink-2');
  const grid = css('--grid');
  const font = { family: css('--mono').split(',')[0].replace(/'/g, ''), size: 11 };
  chart = new Chart(canvas.value, {
    type: 'line',
    data: { datasets: datasets() },
    plugins: [keepArea],
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      parsing: false,
      normalized: true,
      interaction: { mode: 'nearest', axis: 'x', intersect: false },
      onClick: (event) => {
        if (event.x !== null && chart) emit('pick', Math.max(0, chart.scales.x.getValueForPixel(event.x) ?? 0));
      },
      scales: {
        x: {
          type: 'linear',
          min: minX,
          max: maxX,
          grid: { color: grid },
          ticks: {
            color: ink,
            font,
            maxTicksLimit: 8,
            maxRotation: 0,
            includeBounds: false,
            callback: (v) => `${Number(Number(v).toFixed(2))} ${xUnit}`,
          },
        },
        ...Object.fromEntries(
          axes.value.map((own, k) => [
            own,
            {
              axis: 'y' as const,
              position: k ? ('right' as const) : ('left' as const),
              // Only one set of lines across.
              grid: { color: grid, drawOnChartArea: k === 0 },
              ticks: { color: ink, font, maxTicksLimit: 6 },
              title: { display: true, text: own, color: ink },
            },
          ]),
        ),
      },
      plugins: {
        legend: { display: false },
        tooltip: {
          enabled: true,
          callbacks: {
            title: (items) => `${formatFixed(items[0].parsed.x ?? NaN, 2)} ${xUnit}`,
            label: (item) => `${item.dataset.label}: ${formatFixed(item.parsed.y ?? NaN, 1)} ${item.dataset.yAxisID}`,
          },
        },
      },
    },
  });
}
onMounted(build);
onBeforeUnmount(() => chart?.destroy());
watch(
  () => [view.theme, axes.value.join(' '), minX, maxX],
  () => setTimeout(build),
);
watch(
  () => series,
  () => {
    if (!chart) return;
    chart.data.datasets = datasets();
    chart.update('none');
  },
);
</script>

<template>
  <div class="chart" role="img" :aria-label="label" :data-axes="axes.join(' ')">
    <canvas ref="canvas" /><span v-if="cursorStyle" class="cursor" :style="cursorStyle" aria-hidden="true" />
  </div>
</template>

<style scoped>
.chart {
  position: relative;
  width: 100%;
  height: 100%;
  min-height: 0;
}
.cursor {
  position: absolute;
  left: 0;
  width: 1.5px;
  background: var(--cork);
  pointer-events: none;
}
</style>
