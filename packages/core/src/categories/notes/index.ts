import { FormatError } from '../../io/errors.js'
import { fromCocoa } from '../../io/time.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { keyedBy, ownId } from '../keys.js'
import { firstValue, type Mapped, rowCategory, type StoreRows } from '../rows.js'
import type { Json } from '../types.js'
import { NOTES_DOMAIN, noteAttachments, OBJECTS } from './attachments.js'
import { notesDefinition } from './definition.js'
import { type NoteDocument, type Paragraph, readNoteDocument } from './document.js'
import { noteFields } from './fields.js'
import { readNoteTable, TABLE_TYPE } from './table.js'

const TRASH = 1

/** Notes: NoteStore.sqlite of version 9 and later, notes.sqlite before. A note's row is the one of its text. */
export const notes = rowCategory({
  ...notesDefinition,
  fields: noteFields,
  stores: [
    { domain: NOTES_DOMAIN, path: 'NoteStore.sqlite' },
    { domain: 'HomeDomain', path: 'Library/Notes/notes.sqlite' },
  ],
  tables: ['ZICNOTEDATA', 'ZNOTE'],
  map: (row, rows) => (row.table === 'ZNOTE' ? legacyNote(row, rows) : note(row, rows)),
  ...keyedBy(
    ({ fields }) => ownId('id', fields.uuid),
    ({ fields }) => ownId('text', fields.body),
  ),
})

function note(row: Row, rows: StoreRows): Mapped {
  const item = itemOf(row, rows)
  const folder = rows.byId(OBJECTS, numberValue(item?.values.ZFOLDER))
  const locked = numberValue(item?.values.ZISPASSWORDPROTECTED) === 1
  const document = locked ? null : documentOf(row, rows)
  const paragraphs = (document?.paragraphs ?? []).map((one) => withTable(one, rows))
  const body = document && paragraphs.map(plainTextOf).join('\n')
  const modified = fromCocoa(firstValue(item, 'ZMODIFICATIONDATE1', 'ZMODIFICATIONDATE'))
  const title = textValue(firstValue(item, 'ZTITLE1', 'ZTITLE')) ?? body?.split('\n', 1)[0] ?? null
  const inTrash = numberValue(folder?.values.ZFOLDERTYPE) === TRASH
  return {
    when: modified,
    title: title || 'Without a title',
    text: body ?? (locked ? null : textValue(item?.values.ZSNIPPET)),
    fields: {
      title,
      body,
      paragraphs: paragraphs as unknown as Json[],
      folder: textValue(firstValue(folder, 'ZTITLE2', 'ZTITLE1')),
      locked,
      attachments: noteAttachments(item, rows),
      createdAt:
        fromCocoa(firstValue(item, 'ZCREATIONDATE3', 'ZCREATIONDATE1', 'ZCREATIONDATE'))?.toISOString() ?? null,
      modifiedAt: modified?.toISOString() ?? null,
      uuid: textValue(item?.values.ZIDENTIFIER),
    },
    // The day of the move is not kept anywhere; the last change of the note is near it (common practice).
    ...(inTrash ? { binnedAt: modified } : {}),
    gone: item === undefined || numberValue(item.values.ZMARKEDFORDELETION) === 1,
    whole: body !== null,
  }
}

/**
 * The row that names a note's text: each points to the other, and where a deleted one lost its number, a title that is
 * the text's first line, and nobody else's, tells it as well.
 */
function itemOf(row: Row, rows: StoreRows): Row | undefined {
  const named = rows.byId(OBJECTS, numberValue(row.values.ZNOTE))
  if (named || row.standing === 'live') return named
  const pointing = rows.having(OBJECTS, 'ZNOTEDATA', numberValue(row.rowid))
  if (pointing.length === 1) return pointing[0]
  const title = documentOf(row, rows)?.text.split('\n', 1)[0]
  const titled = title ? rows.having(OBJECTS, 'ZTITLE1', title) : []
  return titled.length === 1 ? titled[0] : undefined
}

// Stands in the text for what hangs there (Unicode, "object replacement character").
const IN_PLACE_OF_TEXT = '\u{fffc}'

/** A paragraph with its table, where one is attached in the place of its text. */
function withTable(paragraph: Paragraph, rows: StoreRows): Paragraph {
  const { attached, ...rest } = paragraph
  if (!attached) return rest
  const [object] = rows.having(OBJECTS, 'ZIDENTIFIER', attached)
  const { ZTYPEUTI: type, ZMERGEABLEDATA1: data } = object?.values ?? {}
  const text = rest.text.replaceAll(IN_PLACE_OF_TEXT, '')
  if (type !== TABLE_TYPE || !(data instanceof Uint8Array)) return { ...rest, text }
  try {
    return { ...rest, text, style: 'table', rows: readNoteTable(data) }
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    rows.context.report({
      code: 'note-damaged',
      message: `A table in a note cannot be read: ${thrown.message}.`,
      path: rows.store.entry.path,
    })
    return { ...rest, text }
  }
}

const plainTextOf = ({ text, rows }: Paragraph): string =>
  [...(text === '' && rows ? [] : [text]), ...(rows ?? []).map((cells) => cells.join('\t'))].join('\n')

function documentOf(row: Row, rows: StoreRows): NoteDocument | null {
  const { ZDATA: data } = row.values
  if (!(data instanceof Uint8Array)) return null
  try {
    return readNoteDocument(data)
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    if (row.standing === 'live')
      rows.context.report({
        code: 'note-damaged',
        message: `The text of note ${row.values.ZNOTE} cannot be read: ${thrown.message}.`,
        path: rows.store.entry.path,
      })
    return null
  }
}

function legacyNote(row: Row, rows: StoreRows): Mapped {
  const { values } = row
  const id = numberValue(row.rowid)
  const html = textValue((id === null ? [] : rows.having('ZNOTEBODY', 'ZOWNER', id))[0]?.values.ZCONTENT)
  const body = html === null ? null : textOfHtml(html)
  const modified = fromCocoa(values.ZMODIFICATIONDATE)
  const title = textValue(values.ZTITLE)
  return {
    when: modified,
    title: title || 'Without a title',
    text: body,
    fields: {
      title,
      body,
      paragraphs: (body ?? '').split('\n').map((text) => ({ text, style: 'body', done: false })),
      folder: null,
      locked: false,
      attachments: [],
      createdAt: fromCocoa(values.ZCREATIONDATE)?.toISOString() ?? null,
      modifiedAt: modified?.toISOString() ?? null,
      uuid: textValue(values.ZGUID),
    },
    gone: numberValue(values.ZDELETEDFLAG) === 1,
    whole: body !== null,
  }
}

const ENTITIES: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'", nbsp: ' ' }

/** The text of a note that was kept as simple HTML. It is only ever shown as text. */
function textOfHtml(html: string): string {
  return html
    .replace(/<(br|\/div|\/p)\b[^>]*>/gi, '\n')
    .replace(/<[^>]*>/g, '')
    .replace(/&(#\d{1,7}|[a-z]+);/gi, (whole, name: string) =>
      name.startsWith('#') ? codePoint(Number(name.slice(1)), whole) : (ENTITIES[name.toLowerCase()] ?? whole),
    )
    .trim()
}

const codePoint = (code: number, otherwise: string) => (code <= 0x10ffff ? String.fromCodePoint(code) : otherwise)
