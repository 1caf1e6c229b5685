import { describe, expect, it } from 'vitest'
import { flagsIn, labelOfField, valueOfField } from './field-words.js'

describe('a field on screen', () => {
  it.each([
    ['durationSeconds', 62.4, 'Length', '1:02'],
    ['durationSeconds', 3800, 'Length', '1:03:20'],
    ['fileBytes', 14_348_543, 'Size of the file', '14.3 MB'],
    ['sentAt', '2026-11-14T20:15:00.000Z', 'Sent at', '2026-11-14 21:15'],
    ['participants', ['Bram', 'Odile'], 'Participants', 'Bram, Odile'],
    ['phones', [{ label: 'home', value: '+1 202 555 0100' }], 'Phones', 'home: +1 202 555 0100'],
    ['repeats', [{ frequency: 'weekly', count: 3 }], 'Repeats', 'frequency weekly, count 3'],
    ['latitude', 52.520008123, 'Latitude', '52.520008'],
    ['note', null, 'Note', ''],
  ])('%s of %j is "%s: %s"', (name, value, label, text) => {
    expect([labelOfField(name), valueOfField(name, value, 'Europe/Vienna')]).toEqual([label, text])
  })

  it('says of flags what does not go without saying', () => {
    expect(
      flagsIn({ contentMissing: false, zoneKnown: true, favourite: true, hidden: false, answered: false, muted: true }),
    ).toEqual(['a favourite', 'was not answered', 'muted'])
    expect(flagsIn({ contentMissing: true, zoneKnown: false, title: 'x' })).toEqual([
      'its content is not in the source',
      'the time is that of the camera’s own clock: its zone is not known',
    ])
  })
})
