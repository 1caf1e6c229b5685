import { describe, expect, it } from 'vitest'
import { formatsOffered, isFormat } from '../export/formats.js'
import { CATEGORY_IDS, DEFINITIONS, definitionOf, named, PICTURE_CATEGORIES, USUAL_CATEGORIES } from './registry.js'
import { CATEGORIES } from './table.js'

describe('the registry of categories', () => {
  it('has a reader for each, which carries its definition', () => {
    expect(Object.keys(CATEGORIES)).toEqual(CATEGORY_IDS)
    for (const definition of DEFINITIONS) expect(CATEGORIES[definition.id]).toMatchObject(definition)
  })

  it.each(DEFINITIONS.map((definition) => [definition.id, definition] as const))('%s is whole', (id, definition) => {
    expect(id).toMatch(/^[a-z]+(-[a-z]+)*$/)
    expect(definition.label).toMatch(/^[A-Z]/)
    expect(definition.columns.length).toBeGreaterThan(0)
    // A column of no field would stand empty.
    for (const column of definition.columns) expect(Object.keys(CATEGORIES[id].fields.shape)).toContain(column)
    for (const format of [...definition.formats, ...(definition.moreFormats ?? [])]) expect(isFormat(format)).toBe(true)
    for (const other of [...(definition.readFrom ?? []), ...(definition.files ?? [])])
      expect(CATEGORY_IDS).toContain(other)
  })

  it('gives every id, label and main use once', () => {
    expect(new Set(CATEGORY_IDS).size).toBe(CATEGORY_IDS.length)
    expect(new Set(DEFINITIONS.map(({ label }) => label)).size).toBe(CATEGORY_IDS.length)
  })

  it('derives lists that others rely on', () => {
    expect(CATEGORY_IDS.filter((id) => !USUAL_CATEGORIES.includes(id))).toEqual(['previews'])
    expect(PICTURE_CATEGORIES).toEqual([
      'photos',
      'app-pictures',
      'previews',
      'message-attachments',
      'chat-attachments',
      'note-attachments',
    ])
    expect(named(['notes', 'photos', 'nothing'])).toEqual(['photos', 'notes'])
    expect(formatsOffered(definitionOf('photos')).slice(0, 3)).toEqual(['original', 'albums', 'sidecars'])
    expect(formatsOffered(definitionOf('credentials'))).toEqual(['credentials'])
  })

  it('is plain data, so that pages can hold it', () => {
    expect(JSON.parse(JSON.stringify(DEFINITIONS))).toEqual(DEFINITIONS)
  })
})
