import type { Brief } from './brief.js'
import { CATEGORY_LABELS } from './labels.js'

/** The brief in one sentence, as the job's header says it. */
export function briefSentence(brief: Brief): string {
  const kinds =
    brief.categories.length > 0
      ? brief.categories.map((id) => CATEGORY_LABELS[id].toLowerCase()).join(' and ')
      : 'anything that can be had'
  const parts = [`Looking for ${kinds}`]
  if (brief.people) parts.push(`with ${brief.people}`)
  if (brief.words) parts.push(`about “${brief.words}”`)
  if (brief.lostFrom && brief.lostTo) parts.push(`lost between ${brief.lostFrom} and ${brief.lostTo}`)
  else if (brief.lostFrom) parts.push(`lost after ${brief.lostFrom}`)
  else if (brief.lostTo) parts.push(`lost before ${brief.lostTo}`)
  return `${parts.join(' ')}${brief.device ? `, on ${brief.device}` : ''}.`
}
