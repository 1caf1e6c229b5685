import type { Bytes, Walk } from './types.js'
import { bigEndian, latin } from './window.js'

/** Elements by their ids (RFC 9559), which stand with their own length mark. */
const SEGMENT = 0x18538067
const CLUSTER = 0x1f43b675
const TRACKS = 0x1654ae6b
/** What may stand in a segment: seek head, info, tracks, cluster, cues, chapters, attachments, tags; padding and sums. */
const IN_SEGMENT = new Set([
  ...[0x114d9b74, 0x1549a966, TRACKS, CLUSTER, 0x1c53bb6b, 0x1043a770, 0x1941a469, 0x1254c367],
  ...[0xec, 0xbf],
])
/** What may stand in a cluster: times, places, blocks, groups of blocks; padding and sums. */
const IN_CLUSTER = new Set([0xe7, 0xa7, 0xab, 0xa3, 0xa0, 0x5854, 0xec, 0xbf])

const MOST_PARTS = 1_000_000
const MOST_HEAD = 4096

interface Element {
  id: number
  /** Where its content begins. */
  content: number
  /** Undefined: not known when it was written. */
  size: number | undefined
}

/** Matroska and WebM (RFC 8794, 9559): a head that names the kind, and a segment of known elements. */
export const walkMatroska: Walk = (bytes, start) => {
  const head = elementAt(bytes, start)
  if (!head?.size || head.size > MOST_HEAD || !isNamed(bytes, head)) return undefined
  const segment = elementAt(bytes, head.content + head.size)
  if (segment?.id !== SEGMENT) return undefined
  const claimed = segment.size === undefined ? Number.POSITIVE_INFINITY : segment.content + segment.size
  const { end, seen } = walkSegment(bytes, segment.content, Math.min(claimed, bytes.size))
  if (!seen.has(TRACKS)) return undefined
  if (claimed === Number.POSITIVE_INFINITY) return { end, wholeness: seen.has(CLUSTER) ? 'whole' : 'doubtful' }
  if (claimed > bytes.size) return { end: bytes.size, wholeness: 'cut' }
  return end === claimed && seen.has(CLUSTER) ? { end, wholeness: 'whole' } : { end, wholeness: 'cut' }
}

/** Walks over the elements of a segment, and where a cluster's length is not known over those of the cluster. */
function walkSegment(bytes: Bytes, from: number, limit: number): { end: number; seen: Set<number> } {
  const seen = new Set<number>()
  let at = from
  let inside = IN_SEGMENT
  for (let parts = 0; parts < MOST_PARTS && at < limit; parts++) {
    const element = elementAt(bytes, at)
    if (!element) break
    if (IN_SEGMENT.has(element.id)) inside = IN_SEGMENT
    else if (!inside.has(element.id)) break
    if (element.size === undefined) {
      if (element.id !== CLUSTER) break
      inside = IN_CLUSTER
      at = element.content
    } else {
      if (element.content + element.size > limit) break
      at = element.content + element.size
    }
    seen.add(element.id)
  }
  return { end: at, seen }
}

/** An id and a length, both of as many bytes as the zeros before their first bit say (RFC 8794, section 4). */
function elementAt(bytes: Bytes, at: number): Element | undefined {
  const idLength = Math.clz32((bytes.at(at, 1)[0] ?? 0) << 24) + 1
  const id = idLength <= 4 ? bigEndian(bytes, at, idLength) : undefined
  const first = bytes.at(at + idLength, 1)[0] ?? 0
  const sizeLength = Math.clz32(first << 24) + 1
  if (id === undefined || sizeLength > 8) return undefined
  const coded = bigEndian(bytes, at + idLength, sizeLength)
  if (coded === undefined) return undefined
  const mark = 2 ** (7 * sizeLength)
  const size = coded - mark
  const content = at + idLength + sizeLength
  // All ones: not known. Numbers of eight bytes are not exact, those that can be are.
  if (size >= mark - 1) return { id, content, size: undefined }
  return Number.isSafeInteger(size) ? { id, content, size } : undefined
}

const isNamed = (bytes: Bytes, { content, size = 0 }: Element) =>
  /matroska|webm/.test(latin(bytes, content, Math.min(size, MOST_HEAD)))

/** The head names it; whether there are pictures in it is not looked at. */
export const matroskaKind = (bytes: Bytes, start: number) =>
  latin(bytes, start, 64).includes('webm')
    ? { mime: 'video/webm', ending: 'webm' }
    : { mime: 'video/x-matroska', ending: 'mkv' }
