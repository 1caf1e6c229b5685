import sharp from 'sharp'
import { insert, makeStore, type StoreFile } from './store.js'

const SIDE = 96
const SKINS = ['#e8b88f', '#c98d5e', '#8f5b3a', '#f0cfa8']
const COATS = ['#1d6248', '#8a5a00', '#5646b3', '#a8432a', '#4d5d69']
const HATS = ['#17251f', '#a8432a', '#8a5a00', '#5646b3']

/** A puppet's portrait. */
function portrait(n: number): Promise<Buffer> {
  const [skin, coat, hat] = [SKINS[n % SKINS.length], COATS[n % COATS.length], HATS[n % HATS.length]]
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${SIDE}" height="${SIDE}" viewBox="0 0 96 96">
    <rect width="96" height="96" fill="#efe6d2"/><path d="M14 96 Q48 ${56 + (n % 3) * 4} 82 96Z" fill="${coat}"/>
    <circle cx="48" cy="46" r="22" fill="${skin}"/><path d="M24 40 Q48 ${4 + (n % 4) * 4} 72 40Z" fill="${hat}"/>
    <circle cx="40" cy="46" r="2.6"/><circle cx="56" cy="46" r="2.6"/>
    <path d="M40 ${56 + (n % 2)} Q48 ${60 + (n % 5)} 56 56" stroke="#17251f" stroke-width="2" fill="none"/></svg>`
  return sharp(Buffer.from(svg)).jpeg({ quality: 82 }).toBuffer()
}

/** Pictures of every other person of an address book with so many cards, by the rows of their cards. */
export async function contactPictureStore(file: StoreFile, people: number): Promise<Uint8Array> {
  const pictures = await Promise.all(Array.from({ length: people }, (_, i) => (i % 2 === 0 ? portrait(i) : null)))
  return makeStore(
    file,
    `CREATE TABLE ABFullSizeImage (ROWID INTEGER PRIMARY KEY, record_id INTEGER, crop_x INTEGER, crop_y INTEGER, crop_width INTEGER, data BLOB);
     CREATE TABLE ABThumbnailImage (record_id INTEGER, format INTEGER, derived_from_format INTEGER, data BLOB, UNIQUE (record_id, format))`,
    (database) => {
      for (const [i, data] of pictures.entries())
        if (data)
          insert(database, 'ABThumbnailImage', { record_id: i + 1, format: 5, derived_from_format: 0, data } as never)
    },
  )
}
