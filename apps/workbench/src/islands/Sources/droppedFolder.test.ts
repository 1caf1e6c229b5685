import { expect, it } from 'vitest'
import { chosenFolder, droppedFolder } from './droppedFolder.js'

const file = (name: string) => new File([name], name)

interface Tree {
  [name: string]: Tree | null
}

/** A folder as a browser gives it: at most two entries at a time, and then none. */
function entryOf(name: string, tree: Tree | null): FileSystemEntry {
  if (tree === null)
    return { name, isFile: true, isDirectory: false, file: (done: (one: File) => void) => done(file(name)) } as never
  const left = Object.entries(tree).map(([inside, below]) => entryOf(inside, below))
  const createReader = () => ({ readEntries: (done: (some: FileSystemEntry[]) => void) => done(left.splice(0, 2)) })
  return { name, isFile: false, isDirectory: true, createReader } as never
}

const dropped = (...entries: (FileSystemEntry | null)[]) =>
  droppedFolder({ items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })) } as never)

it('a folder that is dropped is read through, level by level', async () => {
  const tree = {
    'Manifest.db': null,
    'Info.plist': null,
    '0a': { '0a12': null, '0a34': null, '0a56': null },
    empty: {},
  }
  const folder = await dropped(null, entryOf('note.txt', null), entryOf('backup', tree))
  expect(folder?.name).toBe('backup')
  expect(folder?.files.map(({ path }) => path).sort()).toEqual(
    ['Manifest.db', 'Info.plist', '0a/0a12', '0a/0a34', '0a/0a56'].sort(),
  )
  expect(await folder?.files.find(({ path }) => path === '0a/0a34')?.file.text()).toBe('0a34')
})

it('what is no folder is told from one, and one that never ends is left at a depth', async () => {
  expect(await dropped(entryOf('note.txt', null), null)).toBeUndefined()
  expect(await dropped()).toBeUndefined()
  const deep = Array.from({ length: 50 }).reduce<Tree>((below) => ({ below, 'a.txt': null }), {})
  expect((await dropped(entryOf('deep', deep)))?.files.length).toBe(21)
})

it('a folder that is chosen stands under its own name', () => {
  const at = (path: string) => Object.assign(file('x'), { webkitRelativePath: path })
  expect(chosenFolder([])).toBeUndefined()
  const folder = chosenFolder([at('backup/Info.plist'), at('backup/0a/0a12')])
  expect(folder?.name).toBe('backup')
  expect(folder?.files.map(({ path }) => path)).toEqual(['Info.plist', '0a/0a12'])
})
