<script setup lang="ts">
defineProps<{ question: string }>();
</script>

<template>
  <header class="station-head">
    <h1>{{ question }}</h1>
    <slot />
  </header>
</template>

<style scoped>
.station-head {
  display: flex;
  align-items: center;
  gap: 0.75rem;
  margin-bottom: 0.7rem;
}
h1 {
  flex: 1;
  min-width: 0;
}
</style>
