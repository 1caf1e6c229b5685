import type { PackageOptions } from '@lumbrin/core/export/package'
import { previewsBy } from '@lumbrin/core/export/site/previews'
import { readSiteProgram } from '@lumbrin/core/export/site/program'
import { readConfig } from '../config.js'
import { AppError } from '../domain/errors.js'
import { shown } from './media-pool.js'

/** The pages that packages get, as they were built with the application; nothing where it runs from its sources. */
export async function siteOption(): Promise<Pick<PackageOptions, 'site'>> {
  const { siteFolder } = readConfig()
  if (!siteFolder) return {}
  return { site: { program: await readSiteProgram(siteFolder), preview } }
}

/** Pictures of a package, small. What no decoder shows has none. */
const preview = previewsBy(
  (bytes, edge) => shown(bytes, edge, { as: 'jpeg' }),
  (thrown) => thrown instanceof AppError,
)
