import { digest } from '../io/hash.js'
import { type BagFile, type Listed, TAG_MANIFEST, type Tag } from './bag-types.js'
import { PUBLIC_KEY, SIGNATURE, type Signer } from './signing.js'

export const MANIFEST = 'manifest-sha256.txt'

/** What lies beside the payload of a bag: what it is, what it lists, and more that is made of that. */
export interface TagsWanted {
  files: readonly BagFile[]
  /** Labels of bag-info.txt. */
  labels: Record<string, string>
  /** Signs the manifest of tags, and with it all that the bag holds. */
  signer?: Signer | undefined
  /** More files at the bag's top. */
  beside?: readonly Tag[]
}

/** The files beside the payload of a bag (RFC 8493, section 2), the manifest of them and its signature last. */
export function tagsFor({ files, labels, signer, beside = [] }: TagsWanted): Tag[] {
  const { bytes } = listedIn(files)
  const tags: Tag[] = [
    ['bagit.txt', 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'],
    ['bag-info.txt', tagLines({ ...labels, 'Payload-Oxum': `${bytes}.${files.length}` })],
    [MANIFEST, manifestLines(files)],
    ...(signer ? [[PUBLIC_KEY, signer.publicKey] as const] : []),
    ...beside,
  ]
  const sums = manifestLines(tags.map(([path, content]) => ({ path, bytes: 0, sha256: digest('sha256', content) })))
  tags.push([TAG_MANIFEST, sums])
  if (signer) tags.push([SIGNATURE, `${Buffer.from(signer.sign(Buffer.from(sums))).toString('base64')}\n`])
  return tags
}

/** What a manifest of these files says in short. */
export function listedIn(files: readonly BagFile[]): Listed {
  const bytes = files.reduce((sum, file) => sum + file.bytes, 0)
  return { name: MANIFEST, manifest: digest('sha256', manifestLines(files)), files: files.length, bytes }
}

// A manifest line ends at its newline, so one inside a path is written as the RFC asks.
const manifestPath = (path: string) => path.replaceAll('%', '%25').replaceAll('\n', '%0A').replaceAll('\r', '%0D')

export const manifestLines = (files: readonly BagFile[]): string =>
  files.map((file) => `${file.sha256}  ${manifestPath(file.path)}\n`).join('')

const tagLines = (info: Record<string, string>) =>
  Object.entries(info)
    .map(([label, value]) => `${label}: ${value.replace(/\s+/g, ' ')}\n`)
    .join('')
