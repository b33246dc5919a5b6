import '@fontsource-variable/bricolage-grotesque/index.css';
import '@fontsource-variable/atkinson-hyperlegible-next/index.css';
import '@fontsource-variable/spline-sans-mono/index.css';
import './styles.css';
import { createPinia } from 'pinia';
import PrimeVue from 'primevue/config';
import ConfirmationService from 'primevue/confirmationservice';
import ToastService from 'primevue/toastservice';
import { createApp, markRaw } from 'vue';
import App from './App.vue';
import { router } from './router';
import { vRove } from './shared/rove';
import { preset } from './theme';

createApp(App)
  .use(createPinia())
  .use(router)
  // It never changes: nothing of its thousands of values is watched.
  .use(PrimeVue, { theme: { preset: markRaw(preset), options: { darkModeSelector: '[data-theme="dark"]' } } })
  .use(ToastService)
  .use(ConfirmationService)
  .directive('rove', vRove)
  .mount('#app');
