import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { BUILT_IN_PROFILES } from '@lumbrin/core/categories/chats/built-in'
import { readByProfile } from '@lumbrin/core/categories/chats/index'
import { type Profile, parseProfile } from '@lumbrin/core/categories/chats/profile'
import { matchesOf } from '@lumbrin/core/categories/places'
import type { Pass } from '@lumbrin/core/categories/types'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import type { Db } from '../database/connection.js'
import { AppError } from '../domain/errors.js'
import type { SourceId } from '../domain/ids.js'
import type { OwnProfiles, Trial } from '../domain/profile.js'
import { treeOf } from './trees.js'

const folder = () => join(readConfig().dataFolder, 'profiles')

/** The technician's own mapping profiles, and what is wrong with those that cannot be read. */
export async function ownProfiles(): Promise<OwnProfiles> {
  const names = (await readdir(folder()).catch(() => [])).filter((name) => name.endsWith('.json')).sort()
  const profiles: Profile[] = []
  const problems: string[] = []
  for (const name of names)
    try {
      profiles.push(parseProfile(await readFile(join(folder(), name), 'utf8')))
    } catch (thrown) {
      problems.push(`${name}: ${messageOf(thrown)}`)
    }
  return { profiles, problems }
}

/** Saves a profile under its id. @throws AppError where it is not valid, or has the id of a built-in one */
export async function saveProfile(text: string): Promise<Profile> {
  const profile = requireProfile(text)
  if (BUILT_IN_PROFILES.some((one) => one.id === profile.id))
    throw new AppError('conflict', `"${profile.id}" ships with the product. Give your profile an id of its own.`)
  await mkdir(folder(), { recursive: true })
  const path = join(folder(), `${profile.id}.json`)
  await writeFile(`${path}.part`, `${JSON.stringify(profile, null, 2)}\n`)
  await rename(`${path}.part`, path)
  return profile
}

export async function removeProfile(id: string): Promise<void> {
  if (!/^[a-z0-9-]{1,60}$/.test(id)) throw new AppError('not-found', 'There is no such profile.')
  await rm(join(folder(), `${id}.json`), { force: true })
}

// A trial shows as many messages, and looks at as many rows, as it takes to judge the mapping.
const SHOWN = 100
const MOST_LOOKED_AT = 20_000

/** Tries a profile against the first of its databases that a source holds. @throws AppError where it holds none */
export async function tryProfile(db: Db, sourceId: SourceId, text: string): Promise<Trial> {
  const profile = requireProfile(text)
  const tree = await treeOf(db, sourceId)
  const [entry] = profile.stores.flatMap((place) => matchesOf(tree, place))
  if (!entry)
    throw new AppError(
      'not-found',
      `None of the places under "stores" is in this source: ${profile.stores.map((one) => `${one.domain}/${one.path}`).join(', ')}.`,
    )
  const trial: Trial = { store: `${entry.domain}/${entry.path}`, messages: [], live: 0, rebuilt: 0, warnings: [] }
  for (const pass of ['live', 'residue'] as Pass[]) {
    let looked = 0
    const report = ({ message }: { message: string }) => void trial.warnings.push(message)
    for await (const sighting of readByProfile(profile, entry, { tree, pass, report })) {
      if (pass === 'live') trial.live++
      else trial.rebuilt++
      if (++looked <= SHOWN) trial.messages.push(sighting)
      if (looked >= MOST_LOOKED_AT) break
    }
  }
  return { ...trial, warnings: [...new Set(trial.warnings)] }
}

function requireProfile(text: string): Profile {
  try {
    return parseProfile(text)
  } catch (thrown) {
    throw new AppError('invalid', `This is no valid profile. ${messageOf(thrown)}`, { cause: thrown })
  }
}
