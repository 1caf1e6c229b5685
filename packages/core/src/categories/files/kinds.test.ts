import { describe, expect, it } from 'vitest'
import { all, databaseOf, madeTree } from '../../../../../tests/setup/fixtures.js'
import { readStep } from '../read.js'
import { CATEGORY_IDS, type CategoryId, USUAL_CATEGORIES } from '../registry.js'

const bytes = (count = 2000) => new Uint8Array(count)
const GROUP = 'AppDomainGroup-group.net.whatsapp.WhatsApp.shared'
const LOCAL = 'AppDomainGroup-group.com.apple.FileProvider.LocalStorage'

// Where each kind of file lies, from memory; and neighbours that are no such thing.
const TREE = madeTree([
  ['AppDomain-example.paint', 'Documents/fox.png', bytes()],
  ['AppDomain-example.paint', 'Documents/icon.png', bytes(300)],
  ['AppDomain-example.paint', 'Library/thumbnails/fox.png', bytes()],
  ['AppDomain-example.paint', 'Documents/dance.mp4', bytes()],
  ['AppDomain-example.paint', 'Documents/song.m4a', bytes()],
  ['AppDomain-example.paint', 'Documents/plan.pdf', bytes()],
  ['AppDomain-example.paint', 'Documents/paint.sqlite-wal', bytes()],
  ['AppDomain-example.paint', 'Library/Preferences/example.paint.plist', bytes()],
  [GROUP, 'Message/Media/1/0.jpg', bytes()],
  [LOCAL, 'File Provider Storage/seats.txt', bytes()],
  [LOCAL, 'File Provider Storage/.Trash/old seats.txt', bytes()],
  ['CameraRollDomain', 'Media/PhotoData/Thumbnails/V2/DCIM/100APPLE/IMG_0001.JPG/5005.JPG', bytes()],
  ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.JPG', bytes()],
  ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.MOV', bytes()],
  ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0002.MOV', bytes()],
  ['MediaDomain', 'Media/iTunes_Control/Music/F00/ABCD.mp3', bytes()],
  ['MediaDomain', 'Media/iTunes_Control/Ringtones/bell.m4r', bytes()],
  ['MediaDomain', 'Media/Books/fables.epub', bytes()],
])

const EXPECTED: Partial<Record<CategoryId, string[]>> = {
  'app-pictures': ['fox.png'],
  'app-videos': ['dance.mp4'],
  'app-sounds': ['song.m4a'],
  'app-files': ['plan.pdf', 'seats.txt', 'old seats.txt'],
  previews: ['fox.png', '5005.JPG'],
  music: ['ABCD.mp3'],
  ringtones: ['bell.m4r'],
  books: ['fables.epub'],
  // The film of a live picture is part of it.
  videos: ['IMG_0002.MOV'],
  photos: ['IMG_0001.JPG'],
  'other-files': ['icon.png', 'paint.sqlite-wal', 'example.paint.plist', '0.jpg'],
}

const read = (category: CategoryId, tree = TREE) => all(readStep(tree, { category, pass: 'live' }, () => {}))

describe('files by kind', () => {
  it.each(Object.entries(EXPECTED) as [CategoryId, string[]][])('%s are %o', async (category, names) => {
    expect((await read(category)).map(({ title }) => title)).toEqual(names)
  })

  it('are in no two of these categories, and in one of all', () => {
    expect(Object.values(EXPECTED).flat().length).toBe(TREE.fileCount - 1)
  })

  it('lie in the bin of the file manager, with the application they belong to', async () => {
    const found = await read('app-files')
    expect(found.map(({ condition }) => condition)).toEqual(['live', 'live', 'binned'])
    expect(found[0]?.fields).toMatchObject({
      app: 'example.paint',
      path: 'Documents/plan.pdf',
      mime: 'application/pdf',
    })
  })

  it('are read as usual, but small previews only by name', () => {
    expect(CATEGORY_IDS.filter((id) => !USUAL_CATEGORIES.includes(id))).toEqual(['previews'])
  })
})

describe('the library', () => {
  it('tells films from pictures, and names what belongs to them', async () => {
    const library =
      databaseOf(`CREATE TABLE ZASSET (Z_PK INTEGER PRIMARY KEY, ZKIND INTEGER, ZKINDSUBTYPE INTEGER, ZDURATION FLOAT, ZADJUSTMENTSSTATE INTEGER, ZDIRECTORY VARCHAR, ZFILENAME VARCHAR, ZUUID VARCHAR, ZAVALANCHEUUID VARCHAR, ZDATECREATED TIMESTAMP);
      INSERT INTO ZASSET VALUES (1, 0, 2, 0, 2, 'DCIM/100APPLE', 'IMG_0001.HEIC', 'a', 'burst-1', 604672496), (2, 1, 101, 12.5, 0, 'DCIM/100APPLE', 'IMG_0002.MOV', 'b', NULL, 604672496)`)
    const tree = madeTree([
      ['CameraRollDomain', 'Media/PhotoData/Photos.sqlite', library],
      ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.HEIC', bytes()],
      ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.MOV', bytes()],
      ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0002.MOV', bytes()],
      ['CameraRollDomain', 'Media/PhotoData/Mutations/DCIM/100APPLE/IMG_0001/Adjustments/FullSizeRender.jpg', bytes()],
    ])
    expect((await read('photos', tree)).map(({ fields }) => fields)).toMatchObject([
      {
        shape: 'live picture',
        burst: 'burst-1',
        edited: true,
        filmPath: 'Media/DCIM/100APPLE/IMG_0001.MOV',
        editedPath: expect.stringContaining('FullSizeRender.jpg'),
      },
    ])
    expect((await read('videos', tree)).map(({ fields }) => fields)).toMatchObject([
      { shape: 'slow motion', durationSeconds: 12.5, filmPath: null, takenAt: '2020-02-29T12:34:56.000Z' },
    ])
  })
})
