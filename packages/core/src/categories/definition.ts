/** Layouts of findings beside the list and the days, which every category has. */
export type SpecialLayout = 'grid' | 'conversations' | 'map'

/** What technicians look for together, in the order in which it is shown. */
export const GROUPS = ['people', 'pictures', 'web', 'plans', 'device'] as const
export type Group = (typeof GROUPS)[number]

/**
 * What a category is, apart from how it is read: everything that lists, screens and rules want to know of it. Plain data,
 * fit for the browser. Adding a category: docs/categories.md, "Adding one".
 */
export interface Definition {
  /** As it stands in the database, in the command line's output and in handovers: renaming one needs a migration. */
  id: string
  /** Plain plural noun, as it stands on screen. */
  label: string
  group: Group
  /** The handover's default formats; the first is the main one. */
  formats: readonly string[]
  /** Formats that are offered too, beside those that go with its own. */
  moreFormats?: readonly string[]
  /** `files`: items are files of their own, or nothing without one; no rebuilt row brings a file back. */
  nature: 'rows' | 'files'
  /** Fields that a list offers as columns beside date, title and text; the first stands there at first. */
  columns: readonly string[]
  /** Grid or conversations, where there are any, is the usual layout. */
  layouts?: readonly SpecialLayout[]
  /** What contents are: `picture` where some may be; `sound` where all are. */
  contents?: 'picture' | 'sound'
  /** Other categories whose databases it is read out of. */
  readFrom?: readonly string[]
  /** Other categories whose files hang on its items: whoever reads the items wants them too. */
  files?: readonly string[]
  /** Only a backup with a password holds it: always, or since version 13 of the system (common practice). */
  needsPassword?: 'always' | 'since 13'
  /** Items are cut out of other bytes too. */
  carved?: true
  /** Read only where it was asked for by name. */
  onlyByName?: true
  /** Made of other categories' items, or of what no list of a source names: a restore does nothing to them. */
  untouchedByRestore?: true
  /** Titles are names out of the address book, which may change while the items stay as they are. */
  titledByContacts?: true
}

const FILE_COLUMNS = ['domain', 'path', 'mime'] as const

/** A category of files that are told by where they lie and what they are. */
export const filesDefinition = <
  const Id extends string,
  const More extends Partial<Definition> & Pick<Definition, 'group'>,
>(
  id: Id,
  label: string,
  more: More,
) =>
  ({
    id,
    label,
    formats: ['original', 'csv'],
    nature: 'files',
    columns: FILE_COLUMNS,
    ...more,
  }) as const satisfies Definition
