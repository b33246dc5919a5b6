/** Light or dark: the first thing that a page needs, so it stands by itself and brings nothing with it. */
import { defineStore } from 'pinia';
import { ref, watch } from 'vue';

export type Theme = 'light' | 'dark';
const KEY = 'cork-elbow:theme';

/** A storage that is forbidden remembers nothing: it is only a preference. */
function remembered(): Theme | null {
  try {
    const kept = localStorage.getItem(KEY);
    return kept === 'light' || kept === 'dark' ? kept : null;
  } catch {
    return null;
  }
}
function remember(theme: Theme): void {
  try {
    localStorage.setItem(KEY, theme);
  } catch {
    // See above.
  }
}

export const useThemeStore = defineStore('theme', () => {
  const isDark = window.matchMedia?.('(prefers-color-scheme: dark)').matches ?? false;
  const theme = ref<Theme>(remembered() ?? (isDark ? 'dark' : 'light'));
  watch(
    theme,
    (value) => {
      document.documentElement.dataset.theme = value;
      remember(value);
    },
    { immediate: true },
  );
  return { theme };
});
