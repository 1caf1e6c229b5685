import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { demoBackup, tool } from '../../../../tests/setup/fixtures.js'
import { fileIdOf } from '../backup/manifest-values.js'
import { MemorySource } from '../io/source.js'
import { exifDate, readPictureMetadata } from './exif.js'

describe('picture metadata', () => {
  it('is what a general metadata tool reads', async () => {
    const { folder, truth } = demoBackup(inject('demoFolder'))
    const live = truth.pictures.filter((one) => one.fate === 'live').slice(0, 5)
    expect(live.map(({ name }) => name.split('.')[1])).toEqual(expect.arrayContaining(['JPG', 'HEIC']))
    for (const picture of live) {
      const id = fileIdOf('CameraRollDomain', `Media/DCIM/100APPLE/${picture.name}`)
      const file = join(folder, id.slice(0, 2), id)
      const [theirs] = JSON.parse(tool('exiftool', '-json', '-n', file))
      const ours = await readPictureMetadata(new MemorySource(readFileSync(file)))
      expect(ours?.camera).toBe(`${theirs.Make} ${theirs.Model}`)
      expect(ours?.takenAt).toEqual(exifDate(theirs.DateTimeOriginal, theirs.OffsetTimeOriginal))
      expect(ours?.takenAt?.toISOString()).toBe(picture.takenAt)
      expect(ours?.zoneKnown).toBe(true)
    }
  })

  it('says when the zone is not known', () => {
    expect(exifDate('2024:02:29 12:34:56', null)?.toISOString()).toBe('2024-02-29T12:34:56.000Z')
    expect(exifDate('2024:02:29 12:34:56', '-03:30')?.toISOString()).toBe('2024-02-29T16:04:56.000Z')
    expect(exifDate('0000:00:00 00:00:00', null)).toBeNull()
  })

  it('is null for anything that is no picture', async () => {
    expect(await readPictureMetadata(new MemorySource(Buffer.from('no picture')))).toBeNull()
  })
})
