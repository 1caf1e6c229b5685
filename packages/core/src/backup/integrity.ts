import { fileIdOf } from './manifest-values.js'
import type { SourceEntry, SourceTree } from './types.js'

/** What can be wrong with a file that a source lists. */
export type Flaw = 'missing' | 'cut' | 'too-long' | 'locked' | 'wrong-id' | 'size-unknown'

export interface FlawedEntry {
  domain: string
  path: string
  flaw: Flaw
  /** In words, with the numbers. */
  why: string
}

/** Whether a source is whole: every file that it lists, against what is there. */
export interface IntegrityReport {
  checkedAt: string
  folders: number
  links: number
  files: number
  /** Bytes of content that the entries declare. */
  bytes: number
  /** Files with nothing wrong. */
  whole: number
  flaws: Record<Flaw, number>
  /** The first flawed entries, as far as anyone reads them. */
  flawed: FlawedEntry[]
  /** Content that no entry names. */
  strays: number
}

const MOST_LISTED = 2000
const CIPHER_BLOCK = 16

/** How far a check is; the last one brings its report. */
export type IntegrityStep = { checked: number; of: number } | { report: IntegrityReport }

// Files between two reports of progress.
const TELL_EVERY = 500

/** Checks a source to the end. */
export async function checkIntegrity(tree: SourceTree): Promise<IntegrityReport> {
  for await (const step of integritySteps(tree)) if ('report' in step) return step.report
  throw new Error('a check that was not stopped has a report')
}

/**
 * Checks every entry of a source: its content is there, as long as it should be, under the right id, and its key opens.
 * Contents are not read. It tells how far it is, and ends without a report where it is stopped.
 */
export async function* integritySteps(tree: SourceTree, signal?: AbortSignal): AsyncGenerator<IntegrityStep> {
  let checked = 0
  const report: IntegrityReport = {
    checkedAt: new Date().toISOString(),
    folders: 0,
    links: 0,
    files: 0,
    bytes: 0,
    whole: 0,
    flaws: { missing: 0, cut: 0, 'too-long': 0, locked: 0, 'wrong-id': 0, 'size-unknown': 0 },
    flawed: [],
    strays: 0,
  }
  for (const entry of tree.entries()) {
    if (signal?.aborted) return
    if (checked++ % TELL_EVERY === 0) yield { checked, of: tree.fileCount }
    if (entry.kind === 'directory') report.folders++
    if (entry.kind === 'link') report.links++
    if (entry.kind !== 'file') continue
    report.files++
    report.bytes += entry.size ?? 0
    const flaw = await flawOf(tree, entry)
    if (!flaw) report.whole++
    else {
      report.flaws[flaw.flaw]++
      if (report.flawed.length < MOST_LISTED) report.flawed.push({ domain: entry.domain, path: entry.path, ...flaw })
    }
  }
  report.strays = (await tree.strays()).length
  yield { report }
}

/** What is wrong with a file that a source lists; undefined: nothing. Its content is not read. */
export async function flawOf(tree: SourceTree, entry: SourceEntry): Promise<{ flaw: Flaw; why: string } | undefined> {
  const stored = await tree.storedBytes(entry)
  if (stored === undefined) return { flaw: 'missing', why: 'it is listed, but its content is not there' }
  if (!tree.opens(entry)) return { flaw: 'locked', why: 'its key is damaged, or of a class that only the device opens' }
  const { size } = entry
  if (size === null) return { flaw: 'size-unknown', why: 'its record is damaged; its content can still be read' }
  // Encryption fills the last block, and some versions add a whole one.
  const blocks = Math.ceil(size / CIPHER_BLOCK) * CIPHER_BLOCK
  const most = entry.key ? blocks + CIPHER_BLOCK : size
  if (stored < size) return { flaw: 'cut', why: `${stored} of ${size} bytes are there` }
  if (stored > most) return { flaw: 'too-long', why: `${stored} bytes are there where ${size} are declared` }
  if (entry.id !== fileIdOf(entry.domain, entry.path))
    return { flaw: 'wrong-id', why: 'its id is not the one that its place gives' }
  return undefined
}
