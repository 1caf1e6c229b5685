import { messages } from './messages/index.js'
import { photos } from './photos/index.js'
import type { Category, CategoryId } from './types.js'

/** Every category, in the order in which it is read and shown. Adding one: its folder, its id, a line here. */
export const CATEGORIES = { photos, messages } satisfies Record<CategoryId, Category>

/** All categories as a list. */
export const categoryList: readonly Category[] = Object.values(CATEGORIES)
