import type { CategoryId } from '@lumbrin/core/categories/types'

/** Category names as they stand on screen. They repeat no code of the readers, so that pages stay small. */
export const CATEGORY_LABELS: Record<CategoryId, string> = { photos: 'Photos', messages: 'Messages' }
