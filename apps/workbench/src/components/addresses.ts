import { addressOf } from '../api/client'

/** Where the browser finds the content of a finding, its small picture, and its attachments (counted from 0). */
export const contentAddress = (finding: number): string =>
  addressOf('GET /api/findings/{finding}/content', { path: { finding } })

export const thumbnailAddress = (finding: number, size: 'tile' | 'large' = 'tile'): string =>
  addressOf('GET /api/findings/{finding}/thumbnail', { path: { finding }, query: { size } })

export const attachmentAddress = (finding: number, position: number): string =>
  addressOf('GET /api/findings/{finding}/attachments/{index}', { path: { finding, index: position + 1 } })
