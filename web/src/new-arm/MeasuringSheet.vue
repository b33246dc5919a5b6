<script setup lang="ts">
/** The measuring sheet to print and take to the bench: drawings with letters, a line to write each reading on. */
import { IconArrowLeft, IconPrinter } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed } from 'vue';
import { RouterLink, useRoute } from 'vue-router';
import { formatNumber } from '@cork-elbow/core/units';
import { letterOfMeasure, presets, usualMeasures } from '@cork-elbow/core/presets';
import DrawingSvg from '../shared/DrawingSvg.vue';
import { guideDrawings } from './guide';

const { preset: presetId } = defineProps<{ preset: string }>();
const route = useRoute();
const preset = computed(() => presets.find((p) => p.id === presetId));
/** Figures typed so far come along; anything else is the usual. */
const measures = computed(() => {
  if (!preset.value) return {};
  const usual = usualMeasures(preset.value);
  return Object.fromEntries(
    preset.value.measures.map(({ key, min, max }) => {
      const given = Number(route.query[key]);
      return [key, Number.isFinite(given) && given >= min && given <= max ? given : usual[key]];
    }),
  );
});
const guide = computed(
  () =>
    preset.value &&
    guideDrawings(preset.value, measures.value, (_view, i) => ({ width: 680, height: i ? 300 : 400 })),
);
const drawings = computed(() => (guide.value?.ok ? guide.value.drawings : []));
const name = computed(() => (typeof route.query.name === 'string' && route.query.name) || preset.value?.name);
const print = (): void => window.print();
</script>

<template>
  <div class="paper-page">
    <nav class="no-print row">
      <RouterLink class="back" :to="preset ? `/new/${preset.id}` : '/new'"
        ><IconArrowLeft :size="20" aria-hidden="true" /> Back</RouterLink
      >
      <Button label="Print" @click="print"
        ><template #icon><IconPrinter :size="17" /></template
      ></Button>
    </nav>
    <article
      v-if="preset"
      class="paper"
      data-theme="light"
      :style="{ '--rows': preset.measures.length, '--drawings': Math.max(1, drawings.length) }"
    >
      <header>
        <h1>{{ name }}</h1>
        <p>Measuring sheet: {{ preset.name.charAt(0).toLowerCase() + preset.name.slice(1) }}</p>
      </header>
      <DrawingSvg v-for="(drawing, i) in drawings" :key="i" :drawing class="guide" />
      <p v-if="guide && !guide.ok" role="alert">{{ guide.message }}</p>
      <table>
        <thead>
          <tr>
            <th></th>
            <th>measure</th>
            <th class="r">drawn with</th>
            <th class="blank">1st reading, mm</th>
            <th class="blank">2nd reading, mm</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(m, i) in preset.measures" :key="m.key">
            <td class="letter">{{ letterOfMeasure(i) }}</td>
            <td>{{ m.label }}</td>
            <td class="r num">{{ formatNumber(measures[m.key], 1) }}</td>
            <td class="blank"></td>
            <td class="blank"></td>
          </tr>
        </tbody>
      </table>
      <p class="how">
        Measure from the middle of one pivot to the middle of the next. With calipers: across both pins, less half of
        each pin. Take every length twice, from either end; if the two differ by more than 0.5 mm, take it a third
        time.
      </p>
      <dl>
        <div>
          <dt>measured with</dt>
          <dd></dd>
        </div>
        <div>
          <dt>by</dt>
          <dd></dd>
        </div>
        <div>
          <dt>date</dt>
          <dd></dd>
        </div>
      </dl>
    </article>
    <p v-else class="paper">There is no kind of arm called “{{ presetId }}”.</p>
  </div>
</template>

<style scoped>
.paper-page {
  max-width: 52rem;
  margin: 0 auto;
  padding: 1.2rem;
}
.back {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
  color: var(--ink-2);
  text-decoration: none;
  flex: 1;
}
.paper {
  background: var(--paper);
  color: var(--ink);
  border-radius: 4px;
  box-shadow: var(--shadow);
  padding: 1.6rem 2rem;
  margin-top: 0.8rem;
}
.guide {
  height: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  margin-top: 0.6rem;
}
th {
  text-align: left;
  font-weight: 500;
  font-size: 0.85rem;
  color: var(--ink-2);
}
td,
th {
  border-bottom: 1px solid var(--lines);
  padding: 0.4rem 0.4rem;
}
.r {
  text-align: right;
}
.blank {
  width: 8.4rem;
  border-left: 1px solid var(--lines);
}
td.letter {
  font: 700 1rem var(--mono);
  color: var(--cork);
  width: 2rem;
}
.how {
  margin: 0.9rem 0;
  font-size: 0.92rem;
}
dl {
  display: grid;
  grid-template-columns: 2fr 1.4fr 1fr;
  gap: 1rem;
  margin: 1.2rem 0 0;
}
dt {
  font-size: 0.8rem;
  color: var(--ink-2);
}
dd {
  margin: 1.4rem 0 0;
  border-bottom: 1px solid var(--ink-2);
}
/* All of it on one page, A4 or Letter: the drawings take what head, table and foot leave. */
@page {
  margin: 10mm;
}
@media print {
  .no-print {
    display: none;
  }
  .paper-page {
    padding: 0;
    max-width: none;
  }
  .paper {
    box-shadow: none;
    padding: 0;
    margin: 0;
    font-size: 10pt;
    --room: calc(258mm - 78mm - var(--rows) * 7.4mm);
  }
  .paper h1 {
    font-size: 15pt;
  }
  .guide {
    display: block;
    width: auto;
    max-width: 100%;
    max-height: calc(var(--room) / var(--drawings));
    margin: 0 auto;
  }
  td,
  th {
    padding: 0.9mm 1mm;
    height: 7.2mm;
    box-sizing: border-box;
  }
  .how {
    margin: 2.5mm 0;
  }
  dl {
    margin-top: 2mm;
  }
  dd {
    margin-top: 7mm;
  }
  tr,
  .guide {
    break-inside: avoid;
  }
}
</style>
