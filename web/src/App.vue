<script setup lang="ts">
import Toast from 'primevue/toast';
import { defineAsyncComponent, onBeforeUnmount } from 'vue';
import { RouterView } from 'vue-router';
import { keepFocus } from './shared/focus-keeper';
import { useThemeStore } from './stores/theme';

/** Nothing is asked before a page is there. */
const ConfirmDialog = defineAsyncComponent(() => import('primevue/confirmdialog'));

useThemeStore();
onBeforeUnmount(keepFocus(document));
</script>

<template>
  <div class="app-view"><RouterView /></div>
  <Toast position="bottom-center" />
  <ConfirmDialog />
</template>
