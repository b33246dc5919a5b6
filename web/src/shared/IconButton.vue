<script setup lang="ts">
/** A button of one icon, with its name for screen readers and a word on hovering. */
import Button from 'primevue/button';
import type { Component } from 'vue';

const {
  icon,
  label,
  title,
  danger = false,
} = defineProps<{
  icon: Component;
  label: string;
  title: string;
  /** What it does is a loss: drawn in the alarm colour. */
  danger?: boolean;
}>();
const emit = defineEmits<{ click: [event: MouseEvent] }>();
</script>

<template>
  <Button
    size="small"
    variant="text"
    :severity="danger ? 'danger' : 'secondary'"
    :aria-label="label"
    :title
    @click="emit('click', $event)"
    ><component :is="icon" :size="16"
  /></Button>
</template>
