import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import vue from '@vitejs/plugin-vue';
import { defineConfig, type Plugin } from 'vite';

const server = process.env.CORK_ELBOW_API ?? 'http://127.0.0.1:4310';

/** Smaller files are as fast as they are. */
const LEAST_BYTES = 1400;
/** Each file that is text once more compressed, beside it, as the server sends it to who can read it. */
const compressed = (): Plugin => ({
  name: 'compressed',
  apply: 'build',
  writeBundle({ dir }) {
    for (const name of readdirSync(dir!, { recursive: true, encoding: 'utf8' })) {
      const path = join(dir!, name);
      if (!/\.(js|css|html|svg|json)$/.test(name) || statSync(path).size < LEAST_BYTES) continue;
      const bytes = readFileSync(path);
      writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
      // Nearly as small as the last level in a fraction of its time.
      writeFileSync(`${path}.br`, brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } }));
    }
  },
});

/** What every page begins with, the shelf as well. */
const isBase = (id: string): boolean =>
  /node_modules\/(@vue|vue|vue-router|pinia|@vueuse|zod|@primeuix|@primevue\/core)\//.test(id) ||
  /plugin-vue:export-helper|createVueComponent|primevue\/(?:button|config|toast|usetoast|useconfirm|ripple|badge)\b/.test(
    id,
  ) ||
  /src\/(?:api|contract|shared\/(?:IconButton|DrawingSvg|save-file|stations|rove|focus-keeper)|stores\/theme)\b/.test(
    id,
  );

export default defineConfig({
  root: import.meta.dirname,
  plugins: [vue(), compressed()],
  worker: { format: 'es' },
  build: {
    target: 'es2023',
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      output: {
        // Few files instead of many of a few hundred bytes: a browser asks for six at a time.
        codeSplitting: {
          groups: [
            // What the shelf needs as well.
            { name: 'base', test: isBase, priority: 2 },
            // What most stations share.
            { name: 'stations', test: (id) => !isBase(id), minShareCount: 7, priority: 1 },
          ],
        },
      },
    },
  },
  server: { proxy: { '/api': { target: server, ws: true, changeOrigin: true } } },
});
