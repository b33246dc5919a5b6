<script setup lang="ts">
/** A chart over time in the bench book's style: joint colours with their dash patterns, no animation. */
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
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue';
import { useViewStore } from '../stores/view';

export interface Series {
  readonly label: string;
  /** Number of the joint colour, 1 to 8. */
  readonly colour: number;
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
  label,
  cursor = null,
  minX = 0,
  maxX,
} = defineProps<{
  series: readonly Series[];
  unit: string;
  label: string;
  cursor?: number | null;
  minX?: number;
  maxX?: number;
}>();
const emit = defineEmits<{ pick: [time: number] }>();
const canvas = useTemplateRef('canvas');
const view = useViewStore();
let chart: Chart | null = null;

const css = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

const cursorLine = {
  id: 'cursor',
  afterDatasetsDraw(c: Chart) {
    if (cursor === null) return;
    const x = c.scales.x.getPixelForValue(cursor);
    const { top, bottom, left, right } = c.chartArea;
    if (x < left || x > right) return;
    c.ctx.save();
    c.ctx.strokeStyle = css('--cork');
    c.ctx.lineWidth = 1.5;
    c.ctx.beginPath();
    c.ctx.moveTo(x, top);
    c.ctx.lineTo(x, bottom);
    c.ctx.stroke();
    c.ctx.restore();
  },
};

/** Units of the series, one axis each: the first on the left, a second on the right. */
const axes = computed(() => {
  const own = [...new Set(series.map((s) => s.unit ?? unit))];
  return own.length ? own : [unit];
});

function datasets() {
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
  const ink = css('--ink-2');
  const grid = css('--grid');
  const font = { family: css('--mono').split(',')[0].replace(/'/g, ''), size: 11 };
  chart = new Chart(canvas.value, {
    type: 'line',
    data: { datasets: datasets() },
    plugins: [cursorLine],
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
            callback: (v) => `${Number(Number(v).toFixed(2))} s`,
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
            title: (items) => `${items[0].parsed.x?.toFixed(2)} s`,
            label: (item) => `${item.dataset.label}: ${item.parsed.y?.toFixed(1)} ${item.dataset.yAxisID}`,
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
watch(
  () => cursor,
  () => chart?.draw(),
);
</script>

<template>
  <div class="chart" role="img" :aria-label="label" :data-axes="axes.join(' ')"><canvas ref="canvas" /></div>
</template>

<style scoped>
.chart {
  position: relative;
  width: 100%;
  height: 100%;
  min-height: 0;
}
</style>
