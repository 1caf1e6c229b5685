import { existsSync } from 'node:fs'
import type { SourceTree } from '@lumbrin/core/backup/types'
import { planRead, readStep } from '@lumbrin/core/categories/read'
import { type CategoryId, USUAL_CATEGORIES } from '@lumbrin/core/categories/registry'
import { CATEGORIES } from '@lumbrin/core/categories/table'
import type { Sighting } from '@lumbrin/core/categories/types'
import { openSource } from '@lumbrin/core/collected/open'
import type { HandoverItem } from '@lumbrin/core/export/format'
import { fromTree } from '@lumbrin/core/export/from-tree'
import { type PackageOptions, writePackage } from '@lumbrin/core/export/package'
import { previewsBy } from '@lumbrin/core/export/site/previews'
import { readSiteProgram } from '@lumbrin/core/export/site/program'
import { claimOf } from '@lumbrin/core/findings/standing'
import type { CategoryState } from '@lumbrin/core/findings/states'
import { FormatError, type Report } from '@lumbrin/core/io/errors'
import { shownPicture } from '@lumbrin/core/media/picture'
import { type Options, parseOptions, passwordOf, requireSource, UsageError } from '../options.js'
import { warnOnStderr, withOutput } from '../output.js'

/** `lumbrin handover`: writes a package from one source and prints its summary. */
export async function handoverCommand(words: string[]): Promise<void> {
  const options = parseOptions(words, ['password-file', 'only', 'condition', 'match', 'to'])
  const source = requireSource(options)
  const { to } = options
  if (!to) throw new UsageError('Say where the package goes: --to FOLDER.')
  const report = warnOnStderr()
  const tree = await openSource(source, report, { password: await passwordOf(options) })
  try {
    const subject = { jobNumber: null, owner: null, device: tree.info.deviceName, sought: options.match ?? null }
    const summary = await writePackage(itemsOf(tree, options, report), { to, subject, ...(await siteOption()) })
    await withOutput(undefined, (lines) => lines.write(summary))
  } finally {
    await tree.close()
  }
}

/** The pages for the owner, where the application was built with them. */
async function siteOption(): Promise<Pick<PackageOptions, 'site'>> {
  const folder = process.env.LUMBRIN_SITE
  return folder && existsSync(folder) ? { site: { program: await readSiteProgram(folder), preview } } : {}
}

const preview = previewsBy(
  (bytes, edge) => shownPicture(bytes, edge, 'jpeg'),
  (thrown) => thrown instanceof FormatError,
)

// Passwords go out only where they were asked for by name.
const UNASKED = USUAL_CATEGORIES.filter((id) => id !== 'credentials')

async function* itemsOf(tree: SourceTree, options: Options, report: Report): AsyncGenerator<HandoverItem> {
  for (const category of options.only ?? UNASKED) {
    const chosen = (await merged(tree, category, options, report)).filter((sighting) => isChosen(sighting, options))
    for (const sighting of chosen.sort(byConversationAndTime)) yield itemOf(tree, sighting)
  }
}

/** One sighting an item: where live and residue pass both saw it, the better one. */
async function merged(tree: SourceTree, category: CategoryId, options: Options, report: Report): Promise<Sighting[]> {
  const best = new Map<string, Sighting>()
  for (const step of planRead([category], options.passes))
    for await (const sighting of readStep(tree, step, report)) {
      const key = CATEGORIES[category].identity(sighting)
      const known = best.get(key)
      best.set(
        key,
        known ? claimOf([seenAs(known), seenAs(sighting)], [ALONE], ALONE.device, '').best.sighting : sighting,
      )
    }
  return [...best.values()]
}

// One source alone is the newest state of its device, and says nothing by its silence.
const ALONE: CategoryState = { sourceId: 0, device: 'this', at: null, silent: new Set() }
const seenAs = (sighting: Sighting) => ({
  sourceId: ALONE.sourceId,
  condition: sighting.condition,
  content: 'none' as const,
  sighting,
})

function isChosen(sighting: Sighting, { conditions, match }: Options): boolean {
  if (!conditions.includes(sighting.condition)) return false
  if (match === undefined) return true
  return `${sighting.title}\n${sighting.text ?? ''}\n${JSON.stringify(sighting.fields)}`
    .toLowerCase()
    .includes(match.toLowerCase())
}

function byConversationAndTime(a: Sighting, b: Sighting): number {
  const conversation = (sighting: Sighting) => String(sighting.fields.conversation ?? '')
  return conversation(a).localeCompare(conversation(b)) || (a.when ?? '').localeCompare(b.when ?? '')
}

function itemOf(tree: SourceTree, sighting: Sighting): HandoverItem {
  return {
    sighting,
    standing: claimOf([seenAs(sighting)], [ALONE], ALONE.device, '').standing,
    ...fromTree(tree),
  }
}
