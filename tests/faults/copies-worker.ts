/** Does one piece of work on safe copies in a process of its own, which others kill: WORK FROM TO. Says when it writes. */
import { openSource } from '@lumbrin/core/collected/open'
import { makeCopy } from '@lumbrin/core/copies/make'
import { copyPlace, removePlace } from '@lumbrin/core/copies/move'
import { removeCopies } from '@lumbrin/core/copies/remove'

const [work = '', from = '', to = ''] = process.argv.slice(2)

const WORKS: Record<string, () => Promise<unknown>> = {
  copy: async () => {
    const tree = await openSource(from, () => {})
    // A folder that is not there yet becomes a place: it is pulled behind that only.
    const progress = (done: number) => done === 1 && console.log('begun')
    await makeCopy(tree, to, { report: () => {}, progress }).finally(() => tree.close())
  },
  remove: () => removeCopies(to, [from]),
  move: () => copyPlace(from, to, {}),
  clear: () => removePlace(from, to),
}

if (work !== 'copy') console.log('begun')
await WORKS[work]?.()
