import { STRAY_DOMAIN } from '../../backup/open.js'
import type { SourceEntry, SourceTree } from '../../backup/types.js'
import type { Report } from '../../io/errors.js'
import { readUpTo } from '../../io/source.js'
import { mimeOf } from '../../media/kinds.js'
import { kindOfBytes, SIGNATURE_BYTES } from '../../media/signatures.js'
import { fileOrigin, useFile } from '../open.js'
import type { Category, ReadContext, Sighting } from '../types.js'
import { otherFilesDefinition, straysDefinition } from './definition.js'
import { otherFileFields, strayFields } from './fields.js'
import { ownWordsOf } from './own-words.js'

/** Files of the source that no other category takes, as they are. */
export function otherFiles(holdsElsewhere: (entry: SourceEntry) => boolean): Category {
  const holds = (entry: SourceEntry) => entry.kind === 'file' && !holdsElsewhere(entry)
  return {
    ...otherFilesDefinition,
    fields: otherFileFields,
    stores: [],
    holds,
    async *read({ tree, pass }: ReadContext) {
      if (pass === 'live') for (const entry of tree.entries()) if (holds(entry)) yield fileSighting(tree, entry)
    },
    identity: ({ origin }) => `file:${origin.domain}/${origin.path}`,
  }
}

/** A file of a source as a sighting: of the reader above, or picked by hand from the file browser. */
export function fileSighting(tree: SourceTree, entry: SourceEntry): Sighting {
  const name = entry.path.split('/').at(-1) ?? entry.path
  const { domain, path } = entry
  return {
    category: 'other-files',
    condition: 'live',
    when: entry.modifiedAt?.toISOString() ?? null,
    title: name,
    text: path,
    fields: {
      fileName: name,
      path,
      domain,
      modifiedAt: entry.modifiedAt?.toISOString() ?? null,
      createdAt: entry.createdAt?.toISOString() ?? null,
      contentMissing: !tree.opens(entry),
    },
    content: { name, bytes: entry.size ?? 0, mime: mimeOf(name), sha256: null, domain, path },
    origin: fileOrigin(entry),
    missing: [],
    confidence: 1,
  }
}

/** Content that no entry of the source names, told by its first bytes. */
export const strays: Category = {
  ...straysDefinition,
  fields: strayFields,
  stores: [],
  holds: () => false,
  async *read({ tree, pass, report }: ReadContext) {
    if (pass === 'live') for (const entry of await tree.strays()) yield straySighting(tree, entry, report)
  },
  identity: ({ origin }) => `stray:${origin.path}`,
}

async function straySighting(tree: SourceTree, entry: SourceEntry, report: Report): Promise<Sighting> {
  const read = await useFile(tree, entry, report, async (source) => {
    const kind = kindOfBytes(await readUpTo(source, 0, SIGNATURE_BYTES))
    return { kind, said: await ownWordsOf(source, kind?.mime ?? '') }
  })
  const bytes = (await tree.contentSize(entry)) ?? 0
  const kind = read?.kind
  const name = `${entry.id.slice(0, 12)}.${kind?.ending ?? 'bin'}`
  const mime = kind?.mime ?? 'application/octet-stream'
  return {
    category: 'strays',
    // Its name and place are gone with the entry that named it; whether its content is still read says its kind.
    condition: kind ? 'rebuilt' : 'partial',
    when: read?.said.when ?? null,
    title: name,
    text: null,
    fields: { fileName: name, contentId: entry.id, kind: kind?.mime ?? null, ...read?.said.fields },
    content: { name, bytes, mime, sha256: null, domain: STRAY_DOMAIN, path: entry.id },
    origin: fileOrigin({ domain: STRAY_DOMAIN, path: entry.id }),
    missing: ['name', 'path'],
    confidence: kind ? 0.9 : 0.5,
  }
}
