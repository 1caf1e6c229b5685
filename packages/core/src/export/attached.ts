import type { AttachmentRef } from '../categories/attachments.js'
import { type HandoverItem, type PackageContext, useContent } from './format.js'

/**
 * Writes a file that hangs on an item, unless another format of the package wrote it already, and gives its place in
 * the package; null: the source does not hold it, or it cannot be read, which is noted.
 */
export async function writeAttachment(
  context: PackageContext,
  folder: string,
  file: AttachmentRef,
  item: Pick<HandoverItem, 'open' | 'unreadable' | 'source' | 'sighting'>,
): Promise<string | null> {
  const place = await placeOf(context, folder, file, item)
  if (place !== null) context.attached(file, place)
  return place
}

async function placeOf(
  { bag, places, note }: PackageContext,
  folder: string,
  { name, domain, path }: AttachmentRef,
  item: Pick<HandoverItem, 'open' | 'unreadable' | 'source' | 'sighting'>,
): Promise<string | null> {
  if (path === null) return null
  const key = `${folder}\0${item.source?.path ?? ''}\0${domain}\0${path}`
  const known = bag.placeOf(key)
  if (known) return known
  const place = places.take(folder, name)
  const lack = (why: string) => note(`${item.sighting.title}, ${name}: ${why}`)
  const written = await useContent(item, { domain, path }, lack, (source) => bag.writeContent(place, source, { key }))
  if (!written) places.free(place)
  return written?.place ?? null
}

/** A place as a link from a page: each part of it encoded. */
export const linkTo = (place: string): string => place.split('/').map(encodeURIComponent).join('/')
