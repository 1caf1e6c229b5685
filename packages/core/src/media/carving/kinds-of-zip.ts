import type { Bytes } from './types.js'
import { latin, littleEndian } from './window.js'

const ZIP = { mime: 'application/zip', ending: 'zip' }
const OOXML = 'application/vnd.openxmlformats-officedocument.'

/** Parts that tell a package of Office Open XML (ECMA-376, part 1). */
const OFFICE = [
  ['word/document.xml', { mime: `${OOXML}wordprocessingml.document`, ending: 'docx' }],
  ['xl/workbook.xml', { mime: `${OOXML}spreadsheetml.sheet`, ending: 'xlsx' }],
  ['ppt/presentation.xml', { mime: `${OOXML}presentationml.presentation`, ending: 'pptx' }],
] as const

/** Endings of packages that name their kind in a first entry of their own (OpenDocument 1.3, part 2; EPUB OCF 3.3). */
const NAMED: Record<string, string> = {
  'application/epub+zip': 'epub',
  'application/vnd.oasis.opendocument.text': 'odt',
  'application/vnd.oasis.opendocument.spreadsheet': 'ods',
  'application/vnd.oasis.opendocument.presentation': 'odp',
}

/** What an archive is, told by its parts. */
export function zipKind(bytes: Bytes, start: number, end: number): { mime: string; ending: string } {
  const nameLength = littleEndian(bytes, start + 26, 2) ?? 0
  const name = latin(bytes, start + 30, nameLength)
  if (name === 'mimetype') {
    const extra = littleEndian(bytes, start + 28, 2) ?? 0
    const mime = latin(bytes, start + 30 + nameLength + extra, Math.min(littleEndian(bytes, start + 22, 4) ?? 0, 80))
    const ending = NAMED[mime]
    return ending ? { mime, ending } : ZIP
  }
  if (!/^(\[Content_Types\]\.xml|_rels\/|docProps\/|word\/|xl\/|ppt\/)/.test(name)) return ZIP
  return OFFICE.find(([part]) => bytes.find(part, start, end - start) !== undefined)?.[1] ?? ZIP
}
