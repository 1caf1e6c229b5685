import { attributedBody } from '@lumbrin/standins/demo/attributed'
import { buildBinary } from 'plist'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup } from '../../../../../tests/setup/fixtures.js'
import { openBackup } from '../../backup/open.js'
import { readStep } from '../read.js'
import { editsOf, eventOf } from './edits.js'

describe('edited messages', () => {
  it('keep their earlier wordings, oldest first', () => {
    const wordings = ['at nine', 'at ten', 'at noon'].map((text, i) => ({
      d: 604_672_496 + i,
      t: attributedBody(text),
    }))
    const summary = buildBinary({ ec: { 0: wordings } })
    expect(editsOf(summary, 'at noon')).toEqual({
      versions: [
        { text: 'at nine', at: '2020-02-29T12:34:56.000Z' },
        { text: 'at ten', at: '2020-02-29T12:34:57.000Z' },
      ],
      unsent: false,
    })
    expect(editsOf(buildBinary({ rp: [0] }), null).unsent).toBe(true)
    expect(editsOf(Buffer.from('no list'), 'x')).toEqual({ versions: [], unsent: false })
  })

  it('of the demo say what they said before', async () => {
    const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
    const found = await all(readStep(tree, { category: 'messages', pass: 'live' }, () => {}))
    const edited = found.filter(({ fields }) => fields.editedAt !== null)
    expect(edited.length).toBeGreaterThan(1)
    for (const { text, fields } of edited) expect(fields.versions).toMatchObject([{ text: `${text} (draft)` }])
  })

  it('names what happened in a conversation', () => {
    expect([eventOf(1, 0), eventOf(1, 1), eventOf(2, 0), eventOf(3, 1), eventOf(0, 0)]).toEqual([
      'added',
      'removed',
      'renamed',
      'picture changed',
      null,
    ])
  })
})
