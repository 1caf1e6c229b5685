import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { mutate } from '@lumbrin/standins/mutate'
import { Random } from '@lumbrin/standins/random'
import sharp from 'sharp'
import { describe, expect, inject, it } from 'vitest'
import { demoBackup, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
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

  it('is none where there are no bytes, or hardly any', async () => {
    for (const bytes of [new Uint8Array(0), Buffer.from([0xff]), Buffer.from('\0\0\0\x18ftyp')])
      expect(await readPictureMetadata(new MemorySource(bytes))).toBeNull()
  })

  it('ends on pictures that were damaged in any way', async () => {
    const { folder, truth } = demoBackup(inject('demoFolder'))
    const kinds = ['JPG', 'HEIC'].map((kind) =>
      truth.pictures.find(({ fate, name }) => fate === 'live' && name.endsWith(kind)),
    )
    for (const picture of kinds) {
      const id = fileIdOf('CameraRollDomain', `Media/DCIM/100APPLE/${picture?.name}`)
      const bytes = readFileSync(join(folder, id.slice(0, 2), id))
      // What stands before the pixels is what is read.
      const head = (damaged: Buffer) => Buffer.concat([damaged, bytes.subarray(damaged.length)])
      for (let seed = 1; seed <= 400; seed++)
        await readPictureMetadata(new MemorySource(head(mutate(bytes.subarray(0, 2048), new Random(seed)))))
    }
  })

  it('reads what a PNG says', async () => {
    const file = join(scratchFolder(), 'stage.png')
    const exif = { IFD0: { Make: 'Puppet', Model: 'Eye' }, IFD2: { DateTimeOriginal: '2026:05:01 10:00:00' } }
    await sharp({ create: { width: 8, height: 8, channels: 3, background: 'red' } })
      .withExif(exif)
      .png()
      .toFile(file)
    expect(tool('exiftool', '-s3', '-Model', file).trim()).toBe('Eye')
    const ours = await readPictureMetadata(new MemorySource(readFileSync(file)))
    expect(ours).toMatchObject({ camera: 'Puppet Eye', takenAt: new Date('2026-05-01T10:00:00Z'), zoneKnown: false })
  })

  it('is null for anything that is no picture', async () => {
    expect(await readPictureMetadata(new MemorySource(Buffer.from('no picture')))).toBeNull()
  })
})
