import { execFileSync } from 'node:child_process'
import { appendFileSync, mkdirSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { describe, expect, it, onTestFinished } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { FileSource, RestingFile } from './file.js'
import { inTime } from './patience.js'

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
  it.each([
    ['a folder', (path: string) => mkdirSync(path)],
    ['a link', (path: string) => symlinkSync(fileWith('x'), path)],
    ['a link to nothing', (path: string) => symlinkSync('/nowhere/at/all', path)],
    ['a link to itself', (path: string) => symlinkSync(path, path)],
    // Opened as a file is, it would wait for somebody who writes into it, for ever.
    ['a named pipe', (path: string) => execFileSync('mkfifo', [path])],
    ['a link to a device', (path: string) => symlinkSync('/dev/zero', path)],
    ['a socket', listenAt],
  ])('is not opened: %s', async (_, make) => {
    const path = join(scratchFolder(), 'file')
    await make(path)
    expect(() => new RestingFile(path)).toThrow()
    await expect(FileSource.open(path)).rejects.toThrow()
  })

  it('is not opened: a device', async () => {
    expect(() => new RestingFile('/dev/zero')).toThrow('not a regular file')
    await expect(FileSource.open('/dev/zero')).rejects.toThrow('not a regular file')
  })
})

async function listenAt(path: string): Promise<void> {
  const server = createServer()
  await new Promise<void>((go) => server.listen(path, go))
  onTestFinished(() => void server.close())
}

describe('a disk that does not answer', () => {
  const never = new Promise<string>(() => {})

  it('is given up after a while, and says so', async () => {
    const waited = inTime(never, '/mnt/old disk/Manifest.db', undefined, 20)
    await expect(waited).rejects.toMatchObject({
      name: 'HangError',
      message: expect.stringContaining('"/mnt/old disk/Manifest.db" does not answer'),
    })
  })

  it('gives what comes later to whoever must close it', async () => {
    let answer: (text: string) => void = () => {}
    const slow = new Promise<string>((resolve) => {
      answer = resolve
    })
    const late: string[] = []
    await expect(inTime(slow, 'a file', (text) => late.push(text), 5)).rejects.toThrow('does not answer')
    answer('a handle')
    await slow
    expect(late).toEqual(['a handle'])
  })

  it('is not meant by what comes in time, or fails by itself', async () => {
    const late: string[] = []
    expect(await inTime(Promise.resolve('bytes'), 'a file', (text) => late.push(text), 5)).toBe('bytes')
    await expect(inTime(Promise.reject(new Error('EIO')), 'a file', undefined, 5)).rejects.toThrow('EIO')
    expect(late).toEqual([])
  })
})
