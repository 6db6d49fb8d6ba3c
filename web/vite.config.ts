import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

// The workspace. The visitors' bundle has a build of its own: vite.outlet.config.ts.
export default defineConfig({
  plugins: [react()],
  build: { outDir: 'dist/workspace', emptyOutDir: true, chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import'] } } },
  server: { proxy: { '/api': 'http://127.0.0.1:4180', '/p': 'http://127.0.0.1:4180' } },
});
