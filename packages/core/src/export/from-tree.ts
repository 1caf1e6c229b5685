import type { SourceTree } from '../backup/types.js'
import { revealSecret } from '../categories/credentials/index.js'
import type { HandoverItem } from './format.js'

/** What the items of an open source are handed over with. */
export const fromTree = (tree: SourceTree): Pick<HandoverItem, 'open' | 'reveal'> => ({
  open: async (domain, path) => {
    const entry = tree.find(domain, path)
    return entry && tree.open(entry)
  },
  reveal: (place) => revealSecret(tree, place),
})
