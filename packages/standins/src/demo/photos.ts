import { createHash } from 'node:crypto'
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import sharp from 'sharp'
import { Random } from '../random.js'
import type { Clip } from './clips.js'
import { heicScene, NO_TIME, NO_ZONE } from './heic.js'
import { scene } from './scenes.js'

/** A generated picture with what its camera claims. */
export interface Picture {
  name: string
  uuid: string
  takenAt: Date
  /** Minutes east of UTC where it was taken. */
  zone: number
  place: [number, number] | null
  album: string | null
  fate: 'live' | 'binned' | 'deleted'
  /** As it was sent to others. */
  jpeg: Uint8Array
  /** As the library keeps it: some are HEIC. */
  original: Uint8Array
}

export const WIDTH = 1200
export const HEIGHT = 900
const ALBUMS = ['Autumn tour', 'New stage plans', 'Workshop', 'Posters']
const COCOA = 978_307_200
const cocoa = (date: Date) => date.getTime() / 1000 - COCOA

const two = (n: number) => String(n).padStart(2, '0')

function exifTime(date: Date, zone: number): string {
  const local = new Date(date.getTime() + zone * 60_000)
  return `${local.getUTCFullYear()}:${two(local.getUTCMonth() + 1)}:${two(local.getUTCDate())} ${two(local.getUTCHours())}:${two(local.getUTCMinutes())}:${two(local.getUTCSeconds())}`
}

const exifZone = (zone: number) =>
  `${zone < 0 ? '-' : '+'}${two(Math.floor(Math.abs(zone) / 60))}:${two(Math.abs(zone) % 60)}`

/**
 * Makes `count` pictures over three years, newest last. Some are in the bin, a few were deleted for good. `cache`: a
 * folder in which rendered pictures are kept, for other programs that make the same ones.
 */
export async function makePictures(count: number, takenAt: Date, seed: number, cache?: string): Promise<Picture[]> {
  const random = new Random(seed)
  const pictures: Picture[] = []
  const heics: (Buffer | undefined)[] = []
  for (let i = 0; i < count; i++) {
    const at = new Date(
      Math.round((takenAt.getTime() - (1 - i / count) ** 1.5 * 3 * 365 * 86_400_000) / 1000) * 1000 - 7_200_000,
    )
    const heic = heicScene(seed + i)
    pictures.push({
      name: `IMG_${String(1000 + i).slice(-4)}.${heic ? 'HEIC' : 'JPG'}`,
      uuid: random.uuid(),
      takenAt: at,
      zone: random.pick([60, 120]),
      place: random.chance(0.7) ? [47 + random.next() * 6, 6 + random.next() * 10] : null,
      album: random.chance(0.4) ? random.pick(ALBUMS) : null,
      fate: fateOf(i, count, random),
      jpeg: new Uint8Array(),
      original: new Uint8Array(),
    })
    heics.push(heic)
  }
  // Two at a time: the machine's cores, without holding every picture's pixels at once.
  const queue = pictures.map((picture, i) => ({
    picture,
    heic: heics[i],
    svg: scene(new Random(seed + i), WIDTH, HEIGHT),
  }))
  const worker = async () => {
    for (let job = queue.pop(); job; job = queue.pop()) {
      const { picture, heic, svg } = job
      const [time, zone] = [exifTime(picture.takenAt, picture.zone), exifZone(picture.zone)]
      picture.jpeg = await cached(cache, svg + time + zone, () => render(svg, time, zone))
      picture.original = heic ? dated(heic, picture) : picture.jpeg
    }
  }
  await Promise.all([worker(), worker(), worker()])
  return pictures
}

/** The file that a cache folder holds under a key; it is made and stored where it is not there yet. */
async function cached(cache: string | undefined, key: string, make: () => Promise<Buffer>): Promise<Buffer> {
  if (cache === undefined) return make()
  const file = join(cache, `${createHash('sha256').update(key).digest('hex')}.jpg`)
  const kept = await readFile(file).catch(() => undefined)
  if (kept) return kept
  const made = await make()
  // Another process may read it meanwhile: it is there whole, or not at all.
  await mkdir(cache, { recursive: true })
  await writeFile(`${file}.${process.pid}`, made)
  await rename(`${file}.${process.pid}`, file)
  return made
}

/** A HEIC picture that was made ahead, with the time of this one in its EXIF: as many bytes as were there. */
function dated(heic: Buffer, { takenAt, zone }: Picture): Uint8Array {
  const bytes = Buffer.from(heic)
  for (const [from, to] of [
    [NO_TIME, exifTime(takenAt, zone)],
    [NO_ZONE, exifZone(zone)],
  ] as const)
    bytes.write(to, bytes.indexOf(from, 0, 'latin1'), 'latin1')
  return bytes
}

function fateOf(i: number, count: number, random: Random): Picture['fate'] {
  if (i > count * 0.8 && random.chance(0.3)) return 'binned'
  // Here and there, as people do: where whole pages empty, SQLite puts the rest in order over what was there.
  return i % 2 === 0 && i > count * 0.3 && i < count * 0.5 ? 'deleted' : 'live'
}

/** A picture as its camera writes it. */
export function render(svg: string, time: string, zone: string): Promise<Buffer> {
  return sharp(Buffer.from(svg))
    .jpeg({ quality: 82 })
    .withExif({
      IFD0: { Make: 'Seven Strings', Model: 'Pocket Theatre 5' },
      IFD2: { DateTimeOriginal: time, OffsetTimeOriginal: zone },
    })
    .toBuffer()
}

const SCHEMA = `
CREATE TABLE Z_PRIMARYKEY (Z_ENT INTEGER PRIMARY KEY, Z_NAME VARCHAR, Z_SUPER INTEGER, Z_MAX INTEGER);
CREATE TABLE ZASSET (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZFAVORITE INTEGER, ZADJUSTMENTSSTATE INTEGER, ZHEIGHT INTEGER, ZHIDDEN INTEGER, ZKIND INTEGER,
  ZKINDSUBTYPE INTEGER, ZORIENTATION INTEGER, ZPLAYBACKSTYLE INTEGER, ZTRASHEDSTATE INTEGER, ZVISIBILITYSTATE INTEGER, ZWIDTH INTEGER, ZADDITIONALATTRIBUTES INTEGER,
  ZADDEDDATE TIMESTAMP, ZDATECREATED TIMESTAMP, ZDURATION FLOAT, ZLATITUDE FLOAT, ZLONGITUDE FLOAT, ZMODIFICATIONDATE TIMESTAMP, ZTRASHEDDATE TIMESTAMP, ZDIRECTORY VARCHAR,
  ZFILENAME VARCHAR, ZUNIFORMTYPEIDENTIFIER VARCHAR, ZUUID VARCHAR);
CREATE TABLE ZADDITIONALASSETATTRIBUTES (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZASSET INTEGER, ZORIGINALFILESIZE INTEGER, ZORIGINALWIDTH INTEGER,
  ZORIGINALHEIGHT INTEGER, ZTIMEZONEOFFSET INTEGER, ZTIMEZONENAME VARCHAR, ZORIGINALFILENAME VARCHAR, ZTITLE VARCHAR, ZEXIFTIMESTAMPSTRING VARCHAR);
CREATE TABLE ZGENERICALBUM (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZKIND INTEGER, ZTRASHEDSTATE INTEGER, ZCACHEDCOUNT INTEGER, ZPARENTFOLDER INTEGER,
  ZCREATIONDATE TIMESTAMP, ZTITLE VARCHAR, ZUUID VARCHAR);
CREATE TABLE Z_28ASSETS (Z_28ALBUMS INTEGER, Z_3ASSETS INTEGER, Z_FOK_3ASSETS INTEGER, PRIMARY KEY (Z_28ALBUMS, Z_3ASSETS));
INSERT INTO Z_PRIMARYKEY VALUES (3, 'Asset', 0, 0), (1, 'AdditionalAssetAttributes', 0, 0), (27, 'GenericAlbum', 0, 0), (28, 'Album', 27, 0);`

/** Builds Photos.sqlite for the pictures; those of fate "deleted" are inserted and then deleted by SQL. */
export async function photoLibrary(
  file: string,
  pictures: readonly Picture[],
  clips: readonly Clip[],
  takenAt: Date,
): Promise<Uint8Array> {
  const database = new sqlite.Database(file)
  database.exec(`PRAGMA secure_delete=OFF; ${SCHEMA} BEGIN`)
  ALBUMS.forEach((title, i) => {
    database.run(
      'INSERT INTO ZGENERICALBUM (Z_PK, Z_ENT, Z_OPT, ZKIND, ZTRASHEDSTATE, ZTITLE) VALUES (?, 28, 1, 2, 0, ?)',
      [i + 1, title],
    )
  })
  for (const [i, picture] of pictures.entries()) insertAsset(database, picture, i + 1, takenAt)
  for (const [i, clip] of clips.entries()) insertClip(database, clip, pictures.length + i + 1, takenAt)
  database.exec('COMMIT; BEGIN')
  pictures.forEach((picture, i) => {
    if (picture.fate !== 'deleted') return
    database.run('DELETE FROM Z_28ASSETS WHERE Z_3ASSETS = ?', [i + 1])
    database.run('DELETE FROM ZADDITIONALASSETATTRIBUTES WHERE ZASSET = ?', [i + 1])
    database.run('DELETE FROM ZASSET WHERE Z_PK = ?', [i + 1])
  })
  for (const { uuid, fate } of clips) if (fate === 'deleted') database.run('DELETE FROM ZASSET WHERE ZUUID = ?', [uuid])
  database.exec('COMMIT')
  database.close()
  const bytes = await readFile(file)
  await rm(file)
  return bytes
}

function insertAsset(
  database: InstanceType<typeof sqlite.Database>,
  picture: Picture,
  id: number,
  takenAt: Date,
): void {
  const binnedAt =
    picture.fate === 'binned' ? cocoa(new Date(takenAt.getTime() - ((id * 37) % 28) * 86_400_000 - 3_600_000)) : null
  const [latitude, longitude] = picture.place ?? [-180, -180]
  database.run(
    `INSERT INTO ZASSET (Z_PK, Z_ENT, Z_OPT, ZFAVORITE, ZHEIGHT, ZHIDDEN, ZKIND, ZKINDSUBTYPE, ZORIENTATION, ZTRASHEDSTATE, ZWIDTH, ZADDITIONALATTRIBUTES, ZADDEDDATE, ZDATECREATED,
      ZDURATION, ZLATITUDE, ZLONGITUDE, ZMODIFICATIONDATE, ZTRASHEDDATE, ZDIRECTORY, ZFILENAME, ZUNIFORMTYPEIDENTIFIER, ZUUID)
     VALUES (?, 3, 2, ?, ${HEIGHT}, 0, 0, 0, 1, ?, ${WIDTH}, ?, ?, ?, 0, ?, ?, ?, ?, 'DCIM/100APPLE', ?, ?, ?)`,
    [
      id,
      id % 17 === 0 ? 1 : 0,
      binnedAt === null ? 0 : 1,
      id,
      cocoa(picture.takenAt),
      cocoa(picture.takenAt),
      latitude,
      longitude,
      cocoa(picture.takenAt),
      binnedAt,
      picture.name,
      picture.name.endsWith('HEIC') ? 'public.heic' : 'public.jpeg',
      picture.uuid,
    ],
  )
  database.run(
    `INSERT INTO ZADDITIONALASSETATTRIBUTES (Z_PK, Z_ENT, Z_OPT, ZASSET, ZORIGINALFILESIZE, ZORIGINALWIDTH, ZORIGINALHEIGHT, ZTIMEZONEOFFSET, ZORIGINALFILENAME)
     VALUES (?, 1, 1, ?, ?, ${WIDTH}, ${HEIGHT}, ?, ?)`,
    [id, id, picture.original.byteLength, picture.zone * 60, picture.name],
  )
  if (picture.album)
    database.run('INSERT INTO Z_28ASSETS VALUES (?, ?, ?)', [ALBUMS.indexOf(picture.album) + 1, id, id * 1024])
}

function insertClip(database: InstanceType<typeof sqlite.Database>, clip: Clip, id: number, takenAt: Date): void {
  const taken = cocoa(clip.takenAt)
  const binnedAt = clip.fate === 'binned' ? cocoa(takenAt) - 4 * 86_400 : null
  database.run(
    `INSERT INTO ZASSET (Z_PK, Z_ENT, Z_OPT, ZFAVORITE, ZHEIGHT, ZHIDDEN, ZKIND, ZKINDSUBTYPE, ZORIENTATION, ZTRASHEDSTATE, ZWIDTH, ZADDITIONALATTRIBUTES, ZADDEDDATE, ZDATECREATED,
      ZDURATION, ZLATITUDE, ZLONGITUDE, ZMODIFICATIONDATE, ZTRASHEDDATE, ZDIRECTORY, ZFILENAME, ZUNIFORMTYPEIDENTIFIER, ZUUID)
     VALUES (?, 3, 2, 0, 112, 0, 1, 0, 1, ?, 160, NULL, ?, ?, ?, ?, ?, ?, ?, 'DCIM/100APPLE', ?, 'com.apple.quicktime-movie', ?)`,
    [
      ...[id, binnedAt === null ? 0 : 1, taken, taken, clip.seconds, ...clip.place],
      ...[taken, binnedAt, clip.name, clip.uuid],
    ],
  )
}
