import { askServer } from '../services/internal.js'

/** Pages that people open first; of a job that is none, which loads their code and shows nothing of anybody. */
const PAGES = ['/', '/jobs/0/answer', '/jobs/0/sources', '/jobs/0/findings']

/**
 * Asks the server that has just started for its main pages, one after the other, so that their code is loaded before
 * somebody waits for it. What fails is no harm: the page is loaded when it is asked for.
 */
export async function warm(ask: typeof askServer = askServer): Promise<void> {
  for (const path of PAGES) await (await ask(path))?.arrayBuffer()
}
