import { describe, expect, it } from 'vitest'
import { databaseOf, madeTree, withBadSector } from '../../../../tests/setup/fixtures.js'
import type { SourceTree } from '../backup/types.js'
import { isListDamaged, StepAccountant, storeNameOf } from './account.js'
import { contentStateOf, fileState } from './content-state.js'
import { readStep } from './read.js'
import type { CategoryId } from './registry.js'
import { isClosed, missingContents, type StepAccount, silentStores } from './step-account.js'
import type { Sighting } from './types.js'

const BOOK = ['HomeDomain', 'Library/AddressBook/AddressBook.sqlitedb'] as const
const people = (count: number) => {
  const rows = Array.from(
    { length: count },
    (_, i) => `(${i + 1}, 'Ilse', 'number ${i} ${'x'.repeat(200)}', 'guid-${i}')`,
  )
  return databaseOf(
    `CREATE TABLE ABPerson (ROWID INTEGER PRIMARY KEY, First TEXT, Last TEXT, guid TEXT);
     CREATE TABLE ABMultiValue (UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, label INTEGER, value TEXT);
     ${count > 0 ? `INSERT INTO ABPerson VALUES ${rows.join(', ')};` : ''}`,
  )
}

/** The account of a live pass over a source, as the reader keeps it. */
async function accountOf(tree: SourceTree, category: CategoryId, listDamaged = false): Promise<StepAccount> {
  const step = { category, pass: 'live' as const }
  const accountant = new StepAccountant(tree, step, () => {}, [], listDamaged)
  for await (const sighting of readStep(tree, step, accountant.report))
    accountant.item(await contentStateOf(tree, sighting))
  return accountant.account()
}

const treeWith = (bytes: Uint8Array) => madeTree([[...BOOK, bytes]])

describe('the account of a step', () => {
  const whole = people(60)
  it.each<[string, SourceTree, StepAccount['stores'], number, boolean]>([
    ['a whole store', treeWith(whole), { '': 'whole' }, 60, true],
    ['an empty store, which is an answer', treeWith(people(0)), { '': 'whole' }, 0, true],
    ['no store, which is none', madeTree([]), { '': 'absent' }, 0, true],
    ['bytes that are no database', treeWith(Buffer.from('nothing like one')), { '': 'damaged' }, 0, false],
    ['a store cut in half', treeWith(whole.subarray(0, whole.length >> 1)), { '': 'damaged' }, -1, false],
    ['a store of another generation', treeWith(databaseOf('CREATE TABLE other (a)')), { '': 'damaged' }, 0, false],
  ])('tells of %s', async (_, tree, stores, read, closed) => {
    const account = await accountOf(tree, 'contacts')
    expect(account.stores).toEqual(stores)
    if (read >= 0) expect(account.read).toBe(read)
    else expect(account.pagesSkipped).toBeGreaterThan(0)
    expect(isClosed(account)).toBe(closed)
    expect(silentStores(account).has('')).toBe(stores[''] === 'whole')
  })

  it('tells of a store that is listed and not there', async () => {
    const tree = { ...treeWith(whole), open: async () => undefined }
    expect((await accountOf(tree, 'contacts')).stores).toEqual({ '': 'missing' })
  })

  it('does not take a store for absent that a damaged list may have named', async () => {
    expect((await accountOf(madeTree([]), 'contacts', true)).stores).toEqual({ '': 'damaged' })
    expect((await accountOf(madeTree([]), 'app-files', true)).stores).toEqual({ '': 'damaged' })
    expect((await accountOf(madeTree([]), 'app-files')).stores).toEqual({ '': 'whole' })
    expect(isListDamaged([{ code: 'page-skipped', message: '', path: 'Manifest.db' }])).toBe(true)
    expect(isListDamaged([{ code: 'page-skipped', message: '', path: 'Library/SMS/sms.db' }])).toBe(false)
  })

  it('has a store of its own for each application with conversations', async () => {
    const { stores } = await accountOf(madeTree([]), 'chats')
    expect(Object.keys(stores).length).toBeGreaterThan(1)
    expect(new Set(Object.values(stores))).toEqual(new Set(['absent']))
    expect(storeNameOf({ category: 'chats', fields: { app: 'example.chat' } })).toBe('example.chat')
    expect(storeNameOf({ category: 'messages', fields: { app: 'example.chat' } })).toBe('')
  })

  it('says nothing by the silence of bytes without names', async () => {
    const image = madeTree([], { kind: 'image' })
    expect(silentStores(await accountOf(image, 'app-pictures')).size).toBe(0)
  })
})

describe('what can be had of a content', () => {
  const picture = (content: boolean, path = 'Media/DCIM/1.JPG'): Sighting =>
    ({
      category: 'photos',
      fields: { path, contentMissing: !content },
      content: content ? { domain: 'CameraRollDomain', path } : null,
    }) as unknown as Sighting
  const tree = madeTree([['CameraRollDomain', 'Media/DCIM/1.JPG', Buffer.from('pixels')]])
  const lacking = { ...tree, storedBytes: async () => undefined }

  it.each<[string, Promise<string>, string]>([
    ['there', contentStateOf(tree, picture(true)), 'present'],
    ['never listed', contentStateOf(tree, picture(false, 'Media/DCIM/2.JPG')), 'absent'],
    ['listed, and not there', contentStateOf(lacking, picture(false)), 'lost'],
    ['no content by nature', contentStateOf(tree, { ...picture(false), fields: {} }), 'none'],
    [
      'shorter than it is listed',
      fileState({ ...tree, storedBytes: async () => 3 }, 'CameraRollDomain', 'Media/DCIM/1.JPG'),
      'unreadable',
    ],
  ])('%s', async (_, state, expected) => {
    expect(await state).toBe(expected)
  })

  it('is that of the worst of several attachments', async () => {
    const attachments = [
      { domain: 'CameraRollDomain', path: 'Media/DCIM/1.JPG' },
      { domain: 'CameraRollDomain', path: null },
    ]
    const message = { category: 'messages', fields: { attachments }, content: null } as unknown as Sighting
    expect(await contentStateOf(tree, message)).toBe('absent')
  })

  it('leaves an account open where another try may bring it', () => {
    const account = (content: StepAccount['content']): StepAccount => ({
      stores: { '': 'whole' },
      read: 2,
      rowsSkipped: 0,
      pagesSkipped: 0,
      content,
    })
    expect(isClosed(account({ present: 2 }))).toBe(true)
    expect(isClosed(account({ present: 1, absent: 1 }))).toBe(true)
    for (const state of ['awaited', 'lost', 'unreadable', 'locked', 'gone'] as const)
      expect(isClosed(account({ present: 1, [state]: 1 })), state).toBe(false)
    expect(missingContents(account({ present: 1, gone: 2, absent: 1, none: 3 }))).toEqual([
      ['absent', 1],
      ['gone', 2],
    ])
  })
})

describe('files that the system does not give out', () => {
  const PICTURE = ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.JPG'] as const
  const JPEG = Buffer.from('ffd8ffe000104a46494600010100000100010000ffd9', 'hex')
  const unreadable = (tree: SourceTree): SourceTree => ({
    ...tree,
    open: async () => withBadSector(JPEG, 0, 1),
  })

  it('are no content that can be had', async () => {
    const tree = madeTree([[...PICTURE, JPEG]])
    expect(await fileState(tree, ...PICTURE)).toBe('present')
    expect(await fileState(unreadable(tree), ...PICTURE)).toBe('unreadable')
  })

  it('keep the step open whose items they would have told of', async () => {
    const tree = madeTree([[...PICTURE, JPEG]])
    expect(isClosed(await accountOf(tree, 'photos'))).toBe(true)
    const account = await accountOf(unreadable(tree), 'photos')
    expect(account).toMatchObject({ read: 1, filesSkipped: 1, content: { unreadable: 1 } })
    expect(isClosed(account)).toBe(false)
  })

  it('leave an item to be read again whose content came back later', async () => {
    const tree = madeTree([[...PICTURE, JPEG]])
    let sighting: Sighting | undefined
    const away = { ...tree, contentSize: async () => undefined }
    for await (const one of readStep(away, { category: 'photos', pass: 'live' }, () => {})) sighting = one
    expect(sighting?.content).toBeNull()
    expect(await contentStateOf(tree, sighting as Sighting)).toBe('unreadable')
  })
})
