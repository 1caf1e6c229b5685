import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { build } from 'vite'
import { ownersFonts } from './fonts.mjs'
import { ROOT } from './shell.mjs'

const OUT = join(ROOT, 'apps/workbench/dist/site')

/** The pages of handover packages, as one plain script and one style: a browser runs no module out of a folder. */
await build({
  root: join(ROOT, 'apps/workbench/src/site'),
  configFile: false,
  logLevel: 'warn',
  plugins: [react(), tailwindcss()],
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: OUT,
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

mkdirSync(join(OUT, 'fonts'))
const slices = ownersFonts().map(({ file, ...slice }) => {
  copyFileSync(file, join(OUT, 'fonts', basename(file)))
  return { ...slice, file: `fonts/${basename(file)}` }
})
writeFileSync(join(OUT, 'fonts.json'), JSON.stringify(slices))
