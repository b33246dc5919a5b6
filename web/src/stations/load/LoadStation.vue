<script setup lang="ts">
/** Load: does it lift it, does it stay on its feet, does the supply hold. */
import type { Component } from 'vue';
import type { PartOf } from '@cork-elbow/core/findings';
import StationPage from '../../shared/StationPage.vue';
import { useParts } from '../../shared/useParts';
import AccuracyPart from './AccuracyPart.vue';
import BalancePart from './BalancePart.vue';
import HeatPart from './HeatPart.vue';
import LiftPart from './LiftPart.vue';
import StandPart from './StandPart.vue';
import SupplyPart from './SupplyPart.vue';
import SwapPart from './SwapPart.vue';
import TrialsPart from './TrialsPart.vue';
import SheetPart from './SheetPart.vue';
import { createLoads } from './useLoads';

const { parts, part } = useParts('load');
createLoads(part);
const pages = {
  lift: LiftPart,
  stand: StandPart,
  supply: SupplyPart,
  swap: SwapPart,
  balance: BalancePart,
  heat: HeatPart,
  accuracy: AccuracyPart,
  trials: TrialsPart,
  sheet: SheetPart,
} satisfies Record<PartOf<'load'>, Component>;
</script>

<template>
  <StationPage v-model="part" station="load" :parts>
    <component :is="pages[part]" />
  </StationPage>
</template>
