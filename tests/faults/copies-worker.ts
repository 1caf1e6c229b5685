/** Does one piece of work on safe copies in a process of its own, which others kill: WORK FROM TO. Says when it begins. */
import { openSource } from '@lumbrin/core/collected/open'
import { makeCopy } from '@lumbrin/core/copies/make'
import { copyPlace, removePlace } from '@lumbrin/core/copies/move'
import { removeCopies } from '@lumbrin/core/copies/remove'

const [work = '', from = '', to = ''] = process.argv.slice(2)

const WORKS: Record<string, () => Promise<unknown>> = {
  copy: async () => {
    const tree = await openSource(from, () => {})
    await makeCopy(tree, to, { report: () => {} }).finally(() => tree.close())
  },
  remove: () => removeCopies(to, [from]),
  move: () => copyPlace(from, to, {}),
  clear: () => removePlace(from),
}

console.log('begun')
await WORKS[work]?.()
