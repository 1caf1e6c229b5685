import { gzipSync } from 'node:zlib'
import { BinaryWriter } from '@bufbuild/protobuf/wire'

export const TABLE_TYPE = 'com.apple.notes.table'

/** The table on the third note. */
export const NOTE_TABLE = [
  ['Place', 'Date', 'Chairs'],
  ['Saint Brannoc', '3 December', '120'],
  ['Over the pass', '5 December', '80, perhaps 90 🎭'],
  ['', '9 December', ''],
]

const writer = () => new BinaryWriter()
const part = (number: number, bytes: Uint8Array) => writer().tag(number, 2).bytes(bytes).finish()
const joined = (...parts: Uint8Array[]) => Buffer.concat(parts)
const numbered = (number: number, value: number) => writer().tag(number, 0).uint32(value).finish()
const named = (number: number, text: string) => writer().tag(number, 2).string(text).finish()
/** A reference to another object of the list. */
const pointer = (index: number) => numbered(6, index)

/**
 * A table of a note as the device writes it: a list of objects that point to each other. Lines are told by identities;
 * the second row was moved, so that its cells name an identity which stands for the one that is ordered.
 */
export function noteTable(cells: readonly (readonly string[])[]): Uint8Array {
  const objects: Uint8Array[] = []
  const uuids: Uint8Array[] = []
  const object = (bytes: Uint8Array) => objects.push(bytes) - 1
  const identity = () => {
    const index = uuids.push(new Uint8Array(16).fill(uuids.length + 1)) - 1
    return {
      uuid: uuids[index] as Uint8Array,
      at: object(part(13, part(3, joined(numbered(1, 3), part(2, numbered(2, index)))))),
    }
  }
  type Identity = ReturnType<typeof identity>
  const pairs = (list: [number, number][]) =>
    joined(...list.map(([key, value]) => part(1, joined(part(1, pointer(key)), part(2, pointer(value))))))
  const ordered = (lines: Identity[], meant: Identity[]) => {
    const array = joined(...lines.map(({ uuid }, place) => part(2, joined(numbered(1, place), part(2, uuid)))))
    const contents = pairs(lines.map((line, i) => [line.at, (meant[i] as Identity).at]))
    return object(part(16, part(1, joined(part(1, array), part(2, contents)))))
  }
  objects.push(new Uint8Array())
  const rows = cells.map(identity)
  const rowsMeant = rows.map((row, i) => (i === 1 ? identity() : row))
  const columns = (cells[0] ?? []).map(identity)
  const inColumns = columns.map(({ at }, column): [number, number] => {
    const filled = cells.flatMap((line, row): [number, number][] => {
      const text = line[column] ?? ''
      if (text === '') return []
      return [[(rowsMeant[row] as Identity).at, object(part(10, named(2, text)))]]
    })
    return [at, object(part(6, pairs(filled)))]
  })
  const keys = ['crRows', 'crColumns', 'cellColumns', 'UUIDIndex']
  const values = [ordered(rows, rowsMeant), ordered(columns, columns), object(part(6, pairs(inColumns)))]
  const map = values.map((value, key) => part(3, joined(numbered(1, key), part(2, pointer(value)))))
  objects[0] = part(13, joined(numbered(1, 0), ...map))
  const list = joined(
    ...objects.map((bytes) => part(3, bytes)),
    ...keys.map((key) => named(4, key)),
    named(5, 'com.apple.notes.ICTable'),
    ...uuids.map((uuid) => part(6, uuid)),
  )
  return gzipSync(part(2, joined(numbered(2, 0), part(3, list))))
}
