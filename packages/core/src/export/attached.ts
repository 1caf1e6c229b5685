import type { AttachmentRef } from '../categories/attachments.js'
import type { HandoverItem, PackageContext } from './format.js'

/**
 * Writes a file that hangs on an item, unless another format of the package wrote it already, and gives its place in
 * the package; null: the source does not hold it.
 */
export async function writeAttachment(
  { bag, places }: PackageContext,
  folder: string,
  { name, domain, path }: AttachmentRef,
  { open, source: from }: Pick<HandoverItem, 'open' | 'source'>,
): Promise<string | null> {
  if (path === null) return null
  const key = `${folder}\0${from?.path ?? ''}\0${domain}\0${path}`
  const known = bag.placeOf(key)
  if (known) return known
  const source = await open(domain, path)
  if (!source) return null
  try {
    return (await bag.writeContent(places.take(folder, name), source, { key })).place
  } finally {
    await source.close()
  }
}

/** A place as a link from a page: each part of it encoded. */
export const linkTo = (place: string): string => place.split('/').map(encodeURIComponent).join('/')
