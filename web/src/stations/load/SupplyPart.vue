<script setup lang="ts"></script>

<template>
  <p class="muted">…</p>
</template>
