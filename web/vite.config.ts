import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vite';

const server = process.env.CORK_ELBOW_API ?? 'http://127.0.0.1:4310';

export default defineConfig({
  root: import.meta.dirname,
  plugins: [vue()],
  worker: { format: 'es' },
  build: { target: 'es2023', chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': { target: server, ws: true, changeOrigin: true } } },
});
