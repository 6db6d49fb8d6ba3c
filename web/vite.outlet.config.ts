import { defineConfig } from 'vite';
import { compressed } from './vite.compressed.ts';

// What visitors get: written as React, built against a small runtime with the same interface. The server reads the
// file names from the manifest.
export default defineConfig({
  base: '/outlet/',
  plugins: [compressed()],
  publicDir: 'outlet-public',
  resolve: {
    alias: {
      'react-dom/client': 'preact/compat/client',
      'react-dom': 'preact/compat',
      'react/jsx-runtime': 'preact/jsx-runtime',
      react: 'preact/compat',
    },
  },
  oxc: { jsx: { runtime: 'automatic', importSource: 'react' } },
  build: {
    outDir: 'dist/outlet',
    emptyOutDir: true,
    manifest: true,
    assetsInlineLimit: 0,
    modulePreload: false,
    rolldownOptions: { input: ['src/outlet/main.tsx', 'src/outlet/wall.tsx'] },
  },
});
