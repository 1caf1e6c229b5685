import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { ROOT } from './shell.mjs'

/** Fonts for what owners write in, by the parts of them that hold letters which the pages' own font lacks. */
const SCRIPTS = {
  'Noto Sans Arabic': /^arabic$/,
  'Noto Sans Hebrew': /^hebrew$/,
  'Noto Sans JP': /^\[\d+\]$/,
  'Noto Sans SC': /^\[\d+\]$/,
  'Noto Sans KR': /^\[\d+\]$/,
  'Noto Emoji': /^\[\d+\]$/,
}
/** Computers that show pages have emoji of their own, in colours. */
const PAPER_ONLY = ['Noto Emoji']

/** The font files of these scripts, each with the Unicode range of its letters. */
export function ownersFonts() {
  const require = createRequire(join(ROOT, 'apps/workbench/package.json'))
  return Object.entries(SCRIPTS).flatMap(([family, parts]) => {
    const id = family.toLowerCase().replaceAll(' ', '-')
    const folder = dirname(require.resolve(`@fontsource-variable/${id}/package.json`))
    const ranges = JSON.parse(readFileSync(join(folder, 'unicode.json'), 'utf8'))
    return Object.entries(ranges)
      .filter(([part]) => parts.test(part))
      .map(([part, range]) => ({
        family: `${family} Variable`,
        range,
        file: join(folder, 'files', `${id}-${part.replace(/[[\]]/g, '')}-wght-normal.woff2`),
        ...(PAPER_ONLY.includes(family) ? { paperOnly: true } : {}),
      }))
  })
}
