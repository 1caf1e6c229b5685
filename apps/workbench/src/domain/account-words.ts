import { RETRIABLE } from '@lumbrin/core/categories/content-states'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { missingContents, type StepAccount, skippedIn } from '@lumbrin/core/categories/step-account'
import type { Pass } from '@lumbrin/core/categories/types'
import { formatCount, plural } from './format.js'
import { CATEGORY_LABELS, CONTENT_STATE_WORDS, PASS_WORDS, STORE_STATE_WORDS } from './labels.js'

/** A step of a read as far as its account goes. */
interface AccountedStep {
  category: CategoryId
  pass: Pass
  account: StepAccount | null
}

/** The latest account of each category and pass of a source's reads. */
export function latestSteps<Step extends AccountedStep>(
  reads: readonly { id: number; steps: readonly Step[] }[],
): Step[] {
  const latest = new Map<string, Step>()
  for (const read of [...reads].sort((a, b) => a.id - b.id))
    for (const step of read.steps) if (step.account) latest.set(`${step.category}/${step.pass}`, step)
  return [...latest.values()]
}

/** Something that could not be had. */
export interface Gap {
  key: string
  label: string
  words: string
  retriable: boolean
}

/** What of a step could not be had, with the reasons. */
export function gapsOf({ category, pass, account }: AccountedStep): Gap[] {
  if (!account) return []
  const label = `${CATEGORY_LABELS[category]}${pass === 'live' ? '' : `, ${PASS_WORDS[pass]}`}`
  const gap = (words: string, retriable: boolean): Gap => ({
    key: `${category}/${pass}/${words}`,
    label,
    words,
    retriable,
  })
  // That a source holds none of a store is said once, of what it shows.
  const stores = Object.entries(account.stores).flatMap(([name, state]) =>
    STORE_STATE_WORDS[state] && (pass === 'live' || state !== 'absent') && !(name && state === 'absent')
      ? [gap(`${name ? `${name}: ` : ''}${STORE_STATE_WORDS[state]}`, state !== 'absent')]
      : [],
  )
  return [
    ...stores,
    ...(skippedIn(account) > 0 ? [gap(skippedWords(account), true)] : []),
    ...missingContents(account).map(([state, count]) =>
      gap(`${formatCount(count)} without content: ${CONTENT_STATE_WORDS[state]}`, RETRIABLE.includes(state)),
    ),
  ]
}

const skippedWords = ({ rowsSkipped, pagesSkipped, filesSkipped = 0 }: StepAccount): string =>
  [
    rowsSkipped > 0 && plural(rowsSkipped, 'damaged row'),
    pagesSkipped > 0 && plural(pagesSkipped, 'damaged page'),
    filesSkipped > 0 && plural(filesSkipped, 'file that cannot be read', 'files that cannot be read'),
  ]
    .filter(Boolean)
    .join(', ')

/** What was looked for in a source, and how: a sentence for its owner. */
export function lookedWords(steps: readonly AccountedStep[]): string {
  const names = (pass: Pass) =>
    steps.filter((step) => step.pass === pass).map(({ category }) => CATEGORY_LABELS[category])
  const [shown, deleted, carved] = [names('live'), names('residue'), names('carving')]
  const same = deleted.length > 0 && deleted.join() === shown.join()
  return [
    shown.length > 0 && `Looked through: ${shown.join(', ')}.`,
    deleted.length > 0 &&
      (same
        ? 'Deleted ones of all of these were searched for.'
        : `Deleted ones were searched for: ${deleted.join(', ')}.`),
    carved.length > 0 && `Every byte was searched for files of these kinds: ${carved.join(', ')}.`,
  ]
    .filter(Boolean)
    .join(' ')
}
