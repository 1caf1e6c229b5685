import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { build } from 'vite'
import { ROOT } from './shell.mjs'

const OUT = join(ROOT, 'apps/workbench/dist/site')

/** Fonts for what owners write in, by the parts of them that hold letters which the pages' own font lacks. */
const SCRIPTS = {
  'Noto Sans Arabic': /^arabic$/,
  'Noto Sans Hebrew': /^hebrew$/,
  'Noto Sans JP': /^\[\d+\]$|^japanese$/,
}

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
const require = createRequire(join(ROOT, 'apps/workbench/package.json'))
const slices = Object.entries(SCRIPTS).flatMap(([family, parts]) => {
  const id = family.toLowerCase().replaceAll(' ', '-')
  const folder = dirname(require.resolve(`@fontsource-variable/${id}/package.json`))
  const ranges = JSON.parse(readFileSync(join(folder, 'unicode.json'), 'utf8'))
  return Object.entries(ranges)
    .filter(([part]) => parts.test(part))
    .map(([part, range]) => {
      const name = `${id}-${part.replace(/[[\]]/g, '')}-wght-normal.woff2`
      copyFileSync(join(folder, 'files', name), join(OUT, 'fonts', name))
      return { family: `${family} Variable`, range, file: `fonts/${name}` }
    })
})
writeFileSync(join(OUT, 'fonts.json'), JSON.stringify(slices))
