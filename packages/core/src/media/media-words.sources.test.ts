import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { mutate } from '@lumbrin/standins/mutate'
import { Random } from '@lumbrin/standins/random'
import sharp from 'sharp'
import { describe, expect, inject, it } from 'vitest'
import { demoBackup, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { fileIdOf } from '../backup/manifest-values.js'
import { MemorySource } from '../io/source.js'
import { readPictureMetadata } from './exif.js'
import { readFilmMetadata } from './film.js'
import type { MediaWords } from './media-words.js'

// Tags are written by exiftool, a general tool, and what is read is held against what it reads.

const write = (file: string, ...tags: string[]) => tool('exiftool', '-q', '-n', '-overwrite_original', ...tags, file)

interface Theirs {
  [tag: string]: number | string | undefined
}

/** What exiftool reads, in the form of ours. */
function theirWords(file: string): Omit<MediaWords, 'takenAt' | 'zoneKnown'> {
  const [said = {}] = JSON.parse(tool('exiftool', '-json', '-n', file)) as Theirs[]
  const number = (tag: string) => (typeof said[tag] === 'number' ? said[tag] : null)
  const isTurned = (number('Orientation') ?? 1) >= 5 || (number('Rotation') ?? 0) % 180 === 90
  const [width, height] = isTurned ? ['ImageHeight', 'ImageWidth'] : ['ImageWidth', 'ImageHeight']
  return {
    width: number(width as string),
    height: number(height as string),
    camera: [said.Make, said.Model].filter(Boolean).join(' ') || null,
    latitude: number('GPSLatitude'),
    longitude: number('GPSLongitude'),
    durationSeconds: number('Duration'),
  }
}

async function oursOf(file: string) {
  const source = new MemorySource(readFileSync(file))
  const words = await (/\.(mov|mp4)$/.test(file) ? readFilmMetadata : readPictureMetadata)(source)
  if (!words) throw new Error(`${file} says nothing`)
  const { takenAt, zoneKnown, ...rest } = words
  return { takenAt: takenAt?.toISOString(), zoneKnown, rest }
}

function expectTheirs(ours: Omit<MediaWords, 'takenAt' | 'zoneKnown'>, file: string): void {
  const theirs = theirWords(file)
  for (const [name, value] of Object.entries(theirs))
    if (typeof value === 'number') expect(ours[name as keyof typeof ours], name).toBeCloseTo(value, 4)
    else expect(ours[name as keyof typeof ours], name).toBe(value)
}

/** A picture with nothing but pixels, in any format. */
async function picture(format: 'jpeg' | 'png' | 'webp' | 'avif' | 'tiff'): Promise<string> {
  const file = join(scratchFolder(), `stage.${format}`)
  await sharp({ create: { width: 40, height: 24, channels: 3, background: 'teal' } })
    .toFormat(format)
    .toFile(file)
  return file
}

/** One of the demo's films, whose header says when it was made. */
function film(ending: 'mov' | 'mp4'): string {
  const { folder } = demoBackup(inject('demoFolder'))
  const id = fileIdOf('CameraRollDomain', 'Media/DCIM/100APPLE/IMG_8000.MOV')
  const file = join(scratchFolder(), `film.${ending}`)
  writeFileSync(file, readFileSync(join(folder, id.slice(0, 2), id)))
  return file
}

describe('what a picture says of itself', () => {
  it.each(['jpeg', 'png', 'webp', 'tiff'] as const)('is read from the XMP of a %s', async (format) => {
    const file = await picture(format)
    write(file, '-XMP-photoshop:DateCreated=2026:05:01 10:00:00+02:00', '-XMP-tiff:Make=Puppet', '-XMP-tiff:Model=Eye')
    write(file, '-XMP-exif:GPSLatitude=47.5', '-XMP-exif:GPSLongitude=-9.75')
    const { takenAt, zoneKnown, rest } = await oursOf(file)
    expect({ takenAt, zoneKnown }).toEqual({ takenAt: '2026-05-01T08:00:00.000Z', zoneKnown: true })
    expectTheirs(rest, file)
  })

  it.each(['jpeg', 'png', 'webp', 'avif'] as const)('is read from the EXIF of a %s first, upright', async (format) => {
    const file = await picture(format)
    write(file, '-XMP-photoshop:DateCreated=2026:05:01 10:00:00+02:00', '-EXIF:DateTimeOriginal=2020:01:02 03:04:05')
    write(file, '-EXIF:Orientation=6', '-EXIF:Make=Puppet', '-EXIF:GPSLatitude=47.5', '-EXIF:GPSLatitudeRef=S')
    write(file, '-EXIF:GPSLongitude=9.75', '-EXIF:GPSLongitudeRef=E')
    const { takenAt, zoneKnown, rest } = await oursOf(file)
    expect({ takenAt, zoneKnown }).toEqual({ takenAt: '2020-01-02T03:04:05.000Z', zoneKnown: false })
    expect([rest.latitude, rest.longitude, rest.camera]).toEqual([-47.5, 9.75, 'Puppet'])
    expect([rest.width, rest.height]).toEqual(format === 'avif' ? [40, 24] : [24, 40])
  })
})

describe('what a film says of itself', () => {
  it('is read from its header: when it was made, its size and length', async () => {
    const file = film('mov')
    const { takenAt, zoneKnown, rest } = await oursOf(file)
    const said = tool('exiftool', '-s3', '-d', '%Y-%m-%dT%H:%M:%S.000Z', '-CreateDate', file).trim()
    expect({ takenAt, zoneKnown }).toEqual({ takenAt: said, zoneKnown: true })
    expectTheirs(rest, file)
  })

  it.each(['mov', 'mp4'] as const)('is read from the keys of a %s first', async (ending) => {
    const file = film(ending)
    write(file, '-Keys:CreationDate=2026:05:01 10:00:00+02:00', '-Keys:GPSCoordinates=47.5 -9.75 410')
    write(file, '-Keys:Make=Puppet', '-Keys:Model=Eye')
    const { takenAt, zoneKnown, rest } = await oursOf(file)
    expect(rest).toMatchObject({ latitude: 47.5, longitude: -9.75, camera: 'Puppet Eye' })
    expect({ takenAt, zoneKnown }).toEqual({ takenAt: '2026-05-01T08:00:00.000Z', zoneKnown: true })
    expectTheirs(rest, file)
  })

  it('is read from older user data, and turned', async () => {
    const file = film('mp4')
    write(file, '-UserData:GPSCoordinates=-47.5 9.75', '-Rotation=90')
    const { rest } = await oursOf(file)
    expect([rest.width, rest.height]).toEqual([112, 160])
    expect([rest.latitude, rest.longitude]).toEqual([-47.5, 9.75])
    expectTheirs(rest, file)
  })

  it('says nothing of when where its clock was never set', async () => {
    const file = film('mov')
    write(file, '-QuickTime:CreateDate=0000:00:00 00:00:00')
    expect((await oursOf(file)).takenAt).toBeUndefined()
  })
})

describe('damaged pictures and films', () => {
  it('end in words or in nothing, after little reading', async () => {
    const movie = film('mov')
    write(movie, '-Keys:CreationDate=2026:05:01 10:00:00+02:00', '-Keys:GPSCoordinates=47.5 -9.75 410')
    const still = await picture('jpeg')
    write(still, '-XMP-photoshop:DateCreated=2026:05:01 10:00:00+02:00')
    for (const [file, read] of [
      [movie, readFilmMetadata],
      [still, readPictureMetadata],
    ] as const) {
      const bytes = readFileSync(file)
      for (let seed = 1; seed <= 300; seed++) {
        const damaged = mutate(bytes.subarray(0, 4096), new Random(seed))
        const words = await read(new MemorySource(Buffer.concat([damaged, bytes.subarray(damaged.length)])))
        for (const value of [words?.latitude ?? 0, words?.longitude ?? 0, words?.width ?? 0])
          expect(Number.isFinite(value)).toBe(true)
      }
    }
  })

  it('are not followed for ever: boxes of no length, boxes of themselves, boxes without number', async () => {
    const box = (type: string, content: Buffer) => {
      const head = Buffer.alloc(8)
      head.writeUInt32BE(8 + content.length)
      head.write(type, 4, 'latin1')
      return Buffer.concat([head, content])
    }
    const crowd = box('moov', Buffer.concat(Array.from({ length: 200_000 }, () => box('free', Buffer.alloc(0)))))
    const nothing = Buffer.concat([Buffer.alloc(4), Buffer.from('moov'), Buffer.alloc(64)])
    for (const bytes of [crowd, nothing, box('moov', box('meta', Buffer.alloc(3)))])
      expect((await readFilmMetadata(new MemorySource(bytes)))?.takenAt ?? null).toBeNull()
    expect(await readFilmMetadata(new MemorySource(Buffer.from('no film at all')))).toBeNull()
  })

  it('XMP that names outer entities, or is no XML, says nothing', async () => {
    const { readXmp } = await import('./xmp.js')
    const nested = `<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><x>&b;</x>`
    for (const text of [nested, '<x', '', '<rdf:RDF/>', '\0'.repeat(100)])
      expect(readXmp(Buffer.from(text))?.takenAt ?? null).toBeNull()
  })
})
