<script setup lang="ts">
import ConfirmDialog from 'primevue/confirmdialog';
import Toast from 'primevue/toast';
import { onBeforeUnmount } from 'vue';
import { RouterView } from 'vue-router';
import { keepFocus } from './shared/focus-keeper';
import { useThemeStore } from './stores/theme';

useThemeStore();
onBeforeUnmount(keepFocus(document));
</script>

<template>
  <div class="app-view"><RouterView /></div>
  <Toast position="bottom-center" />
  <ConfirmDialog />
</template>
