import { readFile, rename, rm } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { z } from 'zod'
import { syncFolder } from '../io/durable.js'
import { digest } from '../io/hash.js'
import { checkBag, readBag } from './bag-check.js'
import { makeFolderBelow, openBelow } from './bag-place.js'
import { MANIFEST } from './bag-tags.js'
import { type BagFile, DestinationError, PAYLOAD, type Tag } from './bag-types.js'

/** Labels of RFC 8493, section 2.2.2: an id of the sender's own, and of the set that a bag belongs to. */
export const SENDER = 'Internal-Sender-Identifier'
export const GROUP = 'Bag-Group-Identifier'

/** Says what is being added to a bag, as long as its manifest does not. */
const ADDING = 'adding.json'
/** Where files lie aside that are being replaced. */
const ASIDE = 'replaced'

const addingSchema = z.object({
  added: z.array(z.string()),
  replaced: z.array(z.string()),
  /** SHA-256 of the manifest that names them: once it lies there, they count. */
  manifest: z.string(),
  /** The other tag files, by their names, in base64. */
  tags: z.record(z.string(), z.base64()),
})
type Adding = z.infer<typeof addingSchema>

/** The labels of a bag's bag-info.txt. */
export async function bagLabels(folder: string): Promise<Map<string, string>> {
  const text = await readFile(join(folder, 'bag-info.txt'), 'utf8').catch(() => '')
  return new Map(
    text.split('\n').flatMap((line) => {
      const [, label, value] = /^([^:]+): (.*)$/.exec(line) ?? []
      return label && value !== undefined ? [[label, value] as const] : []
    }),
  )
}

/**
 * The payload of a bag that more is added to. What a crash left half added is put in order first.
 * @throws DestinationError where it is none, belongs to another job, or is not as it was written (truth, rule 19)
 */
export async function earlierBag(folder: string, group: string | null): Promise<BagFile[]> {
  if (!(await readBag(folder)))
    throw new DestinationError(
      `"${folder}" is not empty, and no earlier handover. Nothing was written; choose a new or an empty folder.`,
    )
  const labels = await bagLabels(folder)
  if ((labels.get(GROUP) ?? null) !== group) {
    const whose = labels.get('External-Identifier')
    throw new DestinationError(
      `The package in "${folder}" belongs to ${whose ? `job ${whose}` : 'no job'}: what is one owner’s is not put into another’s. Nothing was written; choose another folder.`,
    )
  }
  await putInOrder(folder)
  const { altered, missing, unlisted, signature } = await checkBag(folder)
  if (signature === 'invalid')
    throw new DestinationError(
      `The signature of the package in “${folder}” is not that of its manifests: somebody changed it. Nothing was written; choose another folder.`,
    )
  const [first] = [...altered, ...missing, ...unlisted]
  if (first !== undefined)
    throw new DestinationError(
      `The package in "${folder}" is not as it was written: ${altered.length} files differ, ${missing.length} are gone, ${unlisted.length} are not its own ("${first}" is the first). Nothing was written; choose another folder.`,
    )
  return (await readBag(folder)) ?? []
}

/**
 * Moves what is new into an earlier bag. Until its manifest is there, a list of it stands beside, by which the next one
 * puts in order what a crash left half done.
 */
export async function addToBag(
  folder: string,
  staging: string,
  files: readonly BagFile[],
  earlier: readonly BagFile[],
  tags: readonly Tag[],
): Promise<void> {
  const known = new Set(earlier.map(({ path }) => path))
  const manifest = tags.find(([name]) => name === MANIFEST)?.[1] ?? ''
  const adding: Adding = {
    added: files.map(({ path }) => path).filter((path) => !known.has(path)),
    replaced: files.map(({ path }) => path).filter((path) => known.has(path)),
    manifest: digest('sha256', manifest),
    tags: Object.fromEntries(
      tags
        .filter(([name]) => name !== MANIFEST)
        .map(([name, content]) => [name, Buffer.from(content).toString('base64')]),
    ),
  }
  await writeSynced(folder, ADDING, JSON.stringify(adding))
  for (const path of adding.replaced) await moveTo(join(folder, path), folder, join(ASIDE, path))
  for (const { path } of files) await moveTo(join(staging, path), folder, path)
  for (const inner of new Set(files.map(({ path }) => dirname(join(folder, path))))) await syncFolder(inner)
  await rename(join(staging, MANIFEST), join(folder, MANIFEST))
  await syncFolder(folder)
  await complete(folder, adding)
}

/** Moves a file to a place below a folder, where no link leads elsewhere. */
async function moveTo(from: string, folder: string, path: string): Promise<void> {
  await makeFolderBelow(folder, dirname(path))
  await rename(from, join(folder, path))
}

/** What follows once the manifest lies there: the other tags say the same, and what was replaced goes. */
async function complete(folder: string, { tags }: Adding): Promise<void> {
  for (const [name, content] of Object.entries(tags)) await writeSynced(folder, name, Buffer.from(content, 'base64'))
  await rm(join(folder, ASIDE), { recursive: true, force: true })
  await rm(join(folder, ADDING), { force: true })
}

/** Completes what a crash left half added, or takes it back: its manifest says which. */
async function putInOrder(folder: string): Promise<void> {
  const text = await readFile(join(folder, ADDING), 'utf8').catch(() => undefined)
  if (text === undefined) return
  const adding = addingOf(text)
  // A list that was cut short by a crash is from before anything was moved.
  if (!adding) return rm(join(folder, ADDING), { force: true })
  const manifest = await readFile(join(folder, MANIFEST), 'utf8')
  if (digest('sha256', manifest) === adding.manifest) return complete(folder, adding)
  const kept = new Set((await readBag(folder))?.map(({ path }) => path))
  for (const path of adding.added.filter((one) => isInPayload(one) && !kept.has(one)))
    await rm(join(folder, path), { force: true })
  for (const path of adding.replaced.filter(isInPayload))
    await moveTo(join(folder, ASIDE, path), folder, path).catch(() => {})
  await rm(join(folder, ASIDE), { recursive: true, force: true })
  await rm(join(folder, ADDING), { force: true })
}

const isInPayload = (path: string) => path.startsWith(`${PAYLOAD}/`) && !path.split('/').includes('..')

function addingOf(text: string): Adding | undefined {
  try {
    return addingSchema.safeParse(JSON.parse(text)).data
  } catch {
    return undefined
  }
}

/** Writes a file of a bag that lies beside its payload, and flushes it to the disk. */
export async function writeSynced(folder: string, name: string, content: Tag[1]): Promise<void> {
  const handle = await openBelow(folder, name)
  try {
    await handle.writeFile(content)
    await handle.sync()
  } finally {
    await handle.close()
  }
}
