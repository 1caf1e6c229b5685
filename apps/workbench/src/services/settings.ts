import { realpath, stat } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { resolve, sep } from 'node:path'
import { readConfig } from '../config.js'
import type { Db } from '../database/connection.js'
import { changeSetting, loadSetting } from '../database/jobs.js'
import { AppError } from '../domain/errors.js'
import { MOST_BY_ITSELF } from '../domain/reads-at-once.js'
import { type Settings, settings as settingsSchema } from '../domain/settings.js'
import { shown } from './media-pool.js'
import { versionOf } from './versions.js'

const NAME = 'workbench'

/** The saved settings, or the process's own where nothing was saved. */
export const loadSettings = async (db: Db): Promise<Settings> => settingsIn(await loadSetting(db, NAME))

function settingsIn(value: unknown): Settings {
  const saved = settingsSchema.safeParse(value)
  const { searchFolders, allowedRoots } = readConfig()
  return saved.success ? saved.data : settingsSchema.parse({ searchFolders, allowedRoots })
}

/** How many sources are read at once. */
export const readsAtOnce = async (db: Db): Promise<number> =>
  (await loadSettings(db)).readsAtOnce ?? Math.min(availableParallelism(), MOST_BY_ITSELF)

/** The settings with their version. */
export async function versionedSettings(db: Db): Promise<{ settings: Settings; version: string }> {
  const settings = await loadSettings(db)
  return { settings, version: versionOf(settings) }
}

/**
 * Saves settings. `version`: of those that whoever changes them has seen.
 * @throws AppError when a folder does not exist, or somebody else has saved others since
 */
export async function changeSettings(db: Db, settings: Settings, version: string): Promise<void> {
  for (const path of [...settings.searchFolders, ...settings.allowedRoots]) {
    const found = await stat(path).catch(() => undefined)
    if (!found?.isDirectory()) throw new AppError('invalid', `There is no folder "${path}". Nothing was saved.`)
  }
  const isMeant = (there: unknown) => versionOf(settingsIn(there)) === version
  const shop = { ...settings.shop, mark: settings.shop.mark && (await readMark(settings.shop.mark)) }
  if (!(await changeSetting(db, NAME, { ...settings, shop }, isMeant)))
    throw new AppError('conflict', 'Somebody else saved settings since you opened this page. Nothing was changed.')
}

// Of a mark on paper, twice as fine as it is printed.
const MARK_EDGE = 600

/** A mark as every paper can show it. @throws AppError('invalid') where it is no picture: papers are made without anybody there */
async function readMark(address: string): Promise<string> {
  const bytes = Buffer.from(address.slice(address.indexOf(',') + 1), 'base64')
  const picture = await shown(bytes, MARK_EDGE, { as: 'jpeg' }).catch((cause: unknown) => {
    throw new AppError('invalid', 'The mark is no picture that can be read. Nothing was saved.', { cause })
  })
  return `data:image/jpeg;base64,${Buffer.from(picture).toString('base64')}`
}

/**
 * A folder for a handover, made absolute, if it lies below an allowed root; links are followed first, as far as the
 * path exists already.
 * @throws AppError('forbidden') otherwise
 */
export async function requireAllowedFolder(db: Db, path: string): Promise<string> {
  const { allowedRoots } = await loadSettings(db)
  const target = await realTarget(resolve(path))
  for (const root of allowedRoots) {
    const real = await realpath(root).catch(() => undefined)
    if (real && (target === real || target.startsWith(real.endsWith(sep) ? real : real + sep))) return target
  }
  throw new AppError(
    'forbidden',
    `"${path}" is outside the folders for handovers (${allowedRoots.join(', ')}). Choose a folder below one of them, or add one in Settings.`,
  )
}

async function realTarget(path: string): Promise<string> {
  const real = await realpath(path).catch(() => undefined)
  if (real) return real
  const parent = resolve(path, '..')
  return parent === path ? path : resolve(await realTarget(parent), path.slice(parent.length).replace(/^[\\/]/, ''))
}
