import { join } from 'node:path'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { build } from 'vite'
import { ROOT } from './shell.mjs'

/** The pages of handover packages, as one plain script and one style: a browser runs no module out of a folder. */
await build({
  root: join(ROOT, 'apps/workbench/src/site'),
  configFile: false,
  logLevel: 'warn',
  plugins: [react(), tailwindcss()],
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: join(ROOT, 'apps/workbench/dist/site'),
    emptyOutDir: true,
    // Fonts stand inside of the style: a page out of a folder may load none beside it.
    assetsInlineLimit: Number.MAX_SAFE_INTEGER,
    target: 'es2020',
    lib: {
      entry: 'main.tsx',
      formats: ['iife'],
      name: 'lumbrinSite',
      fileName: () => 'site.js',
      cssFileName: 'site',
    },
  },
})
