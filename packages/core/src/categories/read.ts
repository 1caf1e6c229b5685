import type { SourceTree } from '../backup/types.js'
import type { Report } from '../io/errors.js'
import { sha256Of } from '../io/hash.js'
import { partOf } from '../io/source.js'
import { wellFormed } from '../io/text.js'
import { type AttachmentRef, attachmentsOf } from './attachments.js'
import { mayHold, whyNot } from './encrypted.js'
import { libraryItems } from './library/index.js'
import { useFile } from './open.js'
import { CARVED_CATEGORIES, type CategoryId } from './registry.js'
import { CATEGORIES } from './table.js'
import { type ContentRef, PASSES, type Pass, type ReadContext, type Sighting } from './types.js'

/** One part of a read that always gives the same sightings in the same order. */
export interface ReadStep {
  category: CategoryId
  pass: Pass
}

/** The steps of a read: all categories' live rows first, so that results come early, leftovers after. */
export function planRead(categories: readonly CategoryId[], passes: readonly Pass[]): ReadStep[] {
  return PASSES.filter((pass) => passes.includes(pass)).flatMap((pass) =>
    categories
      .filter((id) => pass !== 'carving' || CARVED_CATEGORIES.includes(id))
      .map((category) => ({ category, pass })),
  )
}

/** Sightings of one step, their texts fit for UTF-8. */
export async function* readStep(
  tree: SourceTree,
  step: ReadStep,
  report: Report,
  options: Pick<ReadContext, 'profiles' | 'pulse'> = {},
): AsyncGenerator<Sighting> {
  for await (const sighting of sightingsOf(tree, step, report, options)) yield wellFormed(sighting)
}

function sightingsOf(
  tree: SourceTree,
  step: ReadStep,
  report: Report,
  options: Pick<ReadContext, 'profiles' | 'pulse'>,
): AsyncIterable<Sighting> {
  // A library lists its items itself: there are no databases, and no leftovers.
  if (tree.info.kind === 'cloud-library')
    return step.pass === 'live' ? libraryItems(tree, step.category, report) : none()
  const context = { tree, pass: step.pass, report, ...options }
  return step.pass === 'live' ? withNotice(context, step.category) : CATEGORIES[step.category].read(context)
}

async function* none(): AsyncGenerator<Sighting> {}

/** The live pass; that it is empty for another reason than that there is nothing is told. */
async function* withNotice(context: ReadContext, category: CategoryId): AsyncGenerator<Sighting> {
  let count = 0
  for await (const sighting of CATEGORIES[category].read(context)) {
    count++
    yield sighting
  }
  if (count === 0 && !mayHold(context.tree.info, category))
    context.report({
      code: 'only-in-encrypted',
      message: `${CATEGORIES[category].label}: ${whyNot(category)}`,
    })
}

/** The sighting with the SHA-256 of its content and of its attachments filled in; the files are read for it. Null: it is not there, or cannot be read, which is reported. */
export async function withHashes(tree: SourceTree, sighting: Sighting, report: Report): Promise<Sighting> {
  const { content, fields } = sighting
  const hashed = content && { ...content, sha256: await hashAt(tree, content, report) }
  const attachments = attachmentsOf(sighting)
  if (attachments.length === 0) return { ...sighting, content: hashed }
  const all = await Promise.all(attachments.map((attachment) => hashAttachment(tree, attachment, report)))
  return { ...sighting, content: hashed, fields: { ...fields, attachments: all } }
}

async function hashAttachment(tree: SourceTree, attachment: AttachmentRef, report: Report): Promise<AttachmentRef> {
  const { domain, path } = attachment
  return path === null ? attachment : { ...attachment, sha256: await hashAt(tree, { domain, path }, report) }
}

async function hashAt(
  tree: SourceTree,
  { domain, path, range }: Pick<ContentRef, 'domain' | 'path' | 'range'>,
  report: Report,
): Promise<string | null> {
  const entry = tree.find(domain, path)
  if (!entry) return null
  return (await useFile(tree, entry, report, (source) => sha256Of(partOf(source, range)))) ?? null
}
