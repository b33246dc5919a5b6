<script setup lang="ts">
import ConfirmDialog from 'primevue/confirmdialog';
import Toast from 'primevue/toast';
import { RouterView } from 'vue-router';
import { useThemeStore } from './stores/theme';

useThemeStore();
</script>

<template>
  <div class="app-view"><RouterView /></div>
  <Toast position="bottom-center" />
  <ConfirmDialog />
</template>
