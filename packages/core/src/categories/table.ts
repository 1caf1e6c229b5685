import { otherFiles, strays } from './files/index.js'
import { messages } from './messages/index.js'
import { photos } from './photos/index.js'
import type { Category, CategoryId } from './types.js'

const known = { photos, messages, strays }

/** Every category, in the order in which it is read and shown. Adding one: its folder, its id, a line above. */
export const CATEGORIES = {
  ...known,
  'other-files': otherFiles((entry) => Object.values(known).some((category) => category.holds(entry))),
} satisfies Record<CategoryId, Category>

/** All categories as a list. */
export const categoryList: readonly Category[] = Object.values(CATEGORIES)
