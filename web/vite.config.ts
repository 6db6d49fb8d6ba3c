import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { chunks } from './vite.chunks.ts';
import { compressed } from './vite.compressed.ts';

// The workspace. The visitors' bundle has a build of its own: vite.outlet.config.ts.
export default defineConfig({
  plugins: [react(), compressed()],
  build: {
    outDir: 'dist/workspace',
    emptyOutDir: true,
    assetsInlineLimit: 0,
    rolldownOptions: { output: { codeSplitting: { groups: chunks() } } },
  },
  css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import'] } } },
  server: { proxy: { '/api': 'http://127.0.0.1:4180', '/p': 'http://127.0.0.1:4180' } },
});
