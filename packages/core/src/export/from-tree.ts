import type { SourceTree } from '../backup/types.js'
import { revealSecret } from '../categories/credentials/index.js'
import { partOf } from '../io/source.js'
import type { HandoverItem } from './format.js'

/** What the items of an open source are handed over with. */
export const fromTree = (tree: SourceTree): Pick<HandoverItem, 'open' | 'reveal'> => ({
  open: async (domain, path, range) => {
    const entry = tree.find(domain, path)
    const source = entry && (await tree.open(entry))
    return source && partOf(source, range)
  },
  reveal: (place) => revealSecret(tree, place),
})
