import { readFile, stat } from 'node:fs/promises'
import type { PackageOptions } from '@lumbrin/core/export/package'
import type { MakePreview } from '@lumbrin/core/export/site/previews'
import { readSiteProgram } from '@lumbrin/core/export/site/program'
import { readConfig } from '../config.js'
import { AppError } from '../domain/errors.js'
import { shown } from './media-pool.js'

// A larger picture is looked at in a program of its own.
const MOST_BYTES = 100 << 20

/** The pages that packages get, as they were built with the application; nothing where it runs from its sources. */
export async function siteOption(): Promise<Pick<PackageOptions, 'site'>> {
  const { siteFolder } = readConfig()
  if (!siteFolder) return {}
  return { site: { program: await readSiteProgram(siteFolder), preview } }
}

/** A picture of a package, small. What no decoder shows has none. */
const preview: MakePreview = async (path, edge) => {
  if ((await stat(path)).size > MOST_BYTES) return undefined
  try {
    return await shown(await readFile(path), edge, { as: 'jpeg' })
  } catch (thrown) {
    if (thrown instanceof AppError) return undefined
    throw thrown
  }
}
