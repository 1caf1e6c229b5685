import { gunzipSync, inflateSync } from 'node:zlib'
import { BinaryReader, WireType } from '@bufbuild/protobuf/wire'
import { FormatError } from '../../io/errors.js'

/** A paragraph of a note. */
export interface Paragraph {
  text: string
  style:
    | 'title'
    | 'heading'
    | 'subheading'
    | 'monospaced'
    | 'dotted'
    | 'dashed'
    | 'numbered'
    | 'checklist'
    | 'table'
    | 'body'
  /** Of a checklist item. */
  done: boolean
  /** The identifier of what hangs here in the place of text. */
  attached?: string
  /** Of a table: its cells, row by row. */
  rows?: string[][]
}

export interface NoteDocument {
  text: string
  paragraphs: Paragraph[]
}

const STYLES: Record<number, Paragraph['style']> = {
  0: 'title',
  1: 'heading',
  2: 'subheading',
  4: 'monospaced',
  100: 'dotted',
  101: 'dashed',
  102: 'numbered',
  103: 'checklist',
}

// Notes are texts; what unpacks to more than this was made to fill memory.
const MOST_BYTES = 64 << 20

/**
 * The document of a note: a compressed protobuf message (field numbers from memory, see docs/categories.md).
 * @throws FormatError where it is none
 */
export function readNoteDocument(data: Uint8Array): NoteDocument {
  try {
    const note = field(field(unpack(data), 2), 3)
    return noteOf(note)
  } catch (thrown) {
    if (thrown instanceof FormatError) throw thrown
    throw new FormatError('bad-value', 0, 'the text of the note cannot be unpacked', { cause: thrown })
  }
}

/** A message that may be compressed. @throws an error of zlib */
export function unpack(data: Uint8Array): Uint8Array {
  const limit = { maxOutputLength: MOST_BYTES }
  if (data[0] === 0x1f && data[1] === 0x8b) return gunzipSync(data, limit)
  return data[0] === 0x78 ? inflateSync(data, limit) : data
}

/** The bytes of an embedded message. @throws FormatError where there is none of this number */
export function field(message: Uint8Array, wanted: number): Uint8Array {
  const reader = new BinaryReader(message)
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    if (number === wanted && type === WireType.LengthDelimited) return reader.bytes()
    reader.skip(type, number)
  }
  throw new FormatError('bad-magic', 0, `the message has no part ${wanted}`)
}

interface Run {
  length: number
  style: number | undefined
  done: boolean
  attached: string | undefined
}

/** The text of a note's message. */
export const textOf = (message: Uint8Array): string => noteOf(message).text

function noteOf(message: Uint8Array): NoteDocument {
  const reader = new BinaryReader(message)
  let text = ''
  const runs: Run[] = []
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    if (number === 2 && type === WireType.LengthDelimited) text = reader.string()
    else if (number === 5 && type === WireType.LengthDelimited) runs.push(runOf(reader.bytes()))
    else reader.skip(type, number)
  }
  return { text, paragraphs: paragraphsOf(text, runs) }
}

function runOf(message: Uint8Array): Run {
  const reader = new BinaryReader(message)
  const run: Run = { length: 0, style: undefined, done: false, attached: undefined }
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    if (number === 1 && type === WireType.Varint) run.length = reader.uint32()
    else if (number === 2 && type === WireType.LengthDelimited) Object.assign(run, styleOf(reader.bytes()))
    else if (number === 12 && type === WireType.LengthDelimited) run.attached = identifierOf(reader.bytes())
    else reader.skip(type, number)
  }
  return run
}

function styleOf(message: Uint8Array): Partial<Run> {
  const reader = new BinaryReader(message)
  const style: Partial<Run> = {}
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    if (number === 1 && type === WireType.Varint) style.style = reader.uint32()
    else if (number === 5 && type === WireType.LengthDelimited) style.done = isDone(reader.bytes())
    else reader.skip(type, number)
  }
  return style
}

function identifierOf(message: Uint8Array): string | undefined {
  const reader = new BinaryReader(message)
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    if (number === 1 && type === WireType.LengthDelimited) return reader.string()
    reader.skip(type, number)
  }
  return undefined
}

function isDone(message: Uint8Array): boolean {
  const reader = new BinaryReader(message)
  let done = false
  while (reader.pos < reader.len) {
    const [number, type] = reader.tag()
    if (number === 2 && type === WireType.Varint) done = reader.uint32() === 1
    else reader.skip(type, number)
  }
  return done
}

/** Runs count in UTF-16 units, as JavaScript does. A paragraph has the style of the run it begins in. */
function paragraphsOf(text: string, runs: readonly Run[]): Paragraph[] {
  const starts: { at: number; run: Run }[] = []
  let at = 0
  for (const run of runs) {
    starts.push({ at, run })
    at += run.length
  }
  let position = 0
  let index = 0
  return text.split('\n').map((line) => {
    while (index + 1 < starts.length && (starts[index + 1]?.at ?? 0) <= position) index++
    const run = starts[index]?.run
    position += line.length + 1
    const attached = run?.attached === undefined ? {} : { attached: run.attached }
    return { text: line, style: STYLES[run?.style ?? -1] ?? 'body', done: run?.done ?? false, ...attached }
  })
}
