import { appendFileSync, mkdirSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { FileSource, RestingFile } from './file.js'

function fileWith(text: string): string {
  const path = join(scratchFolder(), 'file')
  writeFileSync(path, text)
  return path
}
const textOf = (bytes: Uint8Array) => Buffer.from(bytes).toString('latin1')

describe('a resting file', () => {
  it('is read before and while it rests', async () => {
    const file = new RestingFile(fileWith('seven strings'))
    expect(textOf(file.readSync(0, 5))).toBe('seven')
    file.rest()
    expect(textOf(file.readSync(6, 13))).toBe('strings')
    await file.close()
    expect(textOf(await file.read(6, 13))).toBe('strings')
  })

  it.each([
    ['longer', (path: string) => appendFileSync(path, 'x')],
    [
      'another',
      (path: string) => {
        writeFileSync(`${path} 2`, 'eight strings')
        renameSync(`${path} 2`, path)
      },
    ],
    ['gone', (path: string) => rmSync(path)],
  ])('that became %s says so', (_, change) => {
    const path = fileWith('seven strings')
    const file = new RestingFile(path)
    file.rest()
    change(path)
    expect(() => file.readSync(0, 5)).toThrow(expect.objectContaining({ name: 'FormatError' }))
  })

  it('gives no bytes that are not there', () => {
    const file = new RestingFile(fileWith('seven'))
    for (const [start, end] of [
      [0, 6],
      [-1, 2],
      [3, 2],
      [0.5, 1],
    ] as const)
      expect(() => file.readSync(start, end)).toThrow('wanted bytes')
    file.rest()
  })
})

describe('a file that is no regular one', () => {
  it('is not opened: a folder, a link', async () => {
    const folder = scratchFolder()
    mkdirSync(join(folder, 'inner'))
    symlinkSync(fileWith('x'), join(folder, 'link'))
    for (const name of ['inner', 'link']) {
      expect(() => new RestingFile(join(folder, name))).toThrow()
      await expect(FileSource.open(join(folder, name))).rejects.toThrow()
    }
  })
})
