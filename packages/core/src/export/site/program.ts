import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import type { FontSlice } from './fonts.js'

/** Script and style of the pages, as the application was built with them, and the fonts that they may need. */
export interface SiteProgram {
  script: string
  style: string
  fonts: readonly FontSlice[]
}

const fontsSchema = z.array(
  z.object({ family: z.string(), range: z.string(), file: z.string(), paperOnly: z.boolean().optional() }),
)

/** Reads them from the folder that they were built into. */
export async function readSiteProgram(folder: string): Promise<SiteProgram> {
  const [script = '', style = '', fonts = ''] = await Promise.all(
    ['site.js', 'site.css', 'fonts.json'].map((name) => readFile(join(folder, name), 'utf8')),
  )
  const slices = fontsSchema.parse(JSON.parse(fonts))
  return { script, style, fonts: slices.map((slice) => ({ ...slice, file: join(folder, slice.file) })) }
}
