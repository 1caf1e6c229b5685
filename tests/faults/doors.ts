import fs from 'node:fs'
import promises, { type FileHandle } from 'node:fs/promises'
import { syncBuiltinESMExports } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Db } from '../../apps/workbench/src/database/connection.js'

/** What a door does to the call that meets it. `short`: half of what was asked for comes. `late`: it was done, and its answer is lost. */
export type Fault = 'EIO' | 'EACCES' | 'ENOSPC' | 'ENOENT' | 'EMFILE' | 'short' | 'lost' | 'late'

/** Faults of files, and of the line to the database. */
export const FILE_FAULTS: readonly Fault[] = ['EIO', 'EACCES', 'ENOSPC', 'ENOENT', 'EMFILE', 'short']
export const LINE_FAULTS: readonly Fault[] = ['lost', 'late']

/** A connection to the database, and a question on it, as Knex names them. */
interface Line {
  __knexUid: string
  destroy(): void
}
interface Asked {
  __knexUid: string
  sql: string
}

type AnyCall = (...words: unknown[]) => unknown

const CALLS = [
  'open',
  'readFile',
  'writeFile',
  'rename',
  'mkdir',
  'rm',
  'rmdir',
  'stat',
  'lstat',
  'realpath',
  'readdir',
  'utimes',
  'copyFile',
  'link',
  'unlink',
  'statfs',
] as const
const HANDLE_CALLS = ['read', 'write', 'writeFile', 'readFile', 'sync', 'datasync', 'truncate', 'stat'] as const
const READING = new Set<string>(['read', 'readSync'])

/**
 * Doors through which every call goes that a job makes to files below some folders, and to the database: they count, and
 * make the n-th call fail.
 */
export class Doors {
  #roots: readonly string[] = []
  #count = 0
  #at = 0
  #fault: Fault = 'EIO'
  #met: string | null = null
  /** Which folder open files lie in. */
  readonly #paths = new WeakMap<object, string>()
  readonly #descriptors = new Map<number, string>()
  readonly #undo: (() => void)[] = []

  /** Puts doors before the calls to files. `install` once a process; `remove` takes them away. */
  async install(): Promise<void> {
    for (const name of CALLS) this.#replace(promises as never, name, (call) => this.#calling(name, call))
    const probe = await promises.open(join(tmpdir()), 'r')
    const handles = Object.getPrototypeOf(probe) as Record<string, AnyCall>
    await probe.close()
    for (const name of HANDLE_CALLS) this.#replace(handles, name, (call) => this.#ofHandle(name, call))
    this.#replace(fs as never, 'openSync', (call) => this.#opening(call))
    this.#replace(fs as never, 'readSync', (call) => this.#readingSync(call))
    syncBuiltinESMExports()
  }

  remove(): void {
    for (const undo of this.#undo.splice(0)) undo()
    syncBuiltinESMExports()
  }

  /** Counts calls to the database too; they meet the faults of its line, which is cut then. */
  guard(db: Db): void {
    const lines: Line[] = []
    const open = db.client.acquireRawConnection.bind(db.client)
    db.client.acquireRawConnection = async () => {
      const line: Line = await open()
      lines.push(line)
      return line
    }
    const pass = (fault: Fault, { sql, __knexUid }: Asked) => {
      if (!this.#isLine || this.#fault !== fault) return
      try {
        this.#pass(sql.slice(0, 60))
      } catch (thrown) {
        lines.find((line) => line.__knexUid === __knexUid)?.destroy()
        throw thrown
      }
    }
    db.on('query', (asked: Asked) => pass('lost', asked))
    db.on('query-response', (_: unknown, asked: Asked) => pass('late', asked))
  }

  /** From now on the n-th call meets the fault; 0: none does, they are counted. */
  arm(roots: readonly string[], fault: Fault, n: number): void {
    this.#roots = roots
    this.#count = 0
    this.#at = n
    this.#fault = fault
    this.#met = null
  }

  /** No call is counted any more. @returns how many were, and which one met the fault; null: none did */
  disarm(): { calls: number; met: string | null } {
    this.#roots = []
    this.#fault = 'EIO'
    return { calls: this.#count, met: this.#met }
  }

  /** Does something whose calls neither count nor fail: a check of how things stand. */
  async aside<T>(work: () => Promise<T>): Promise<T> {
    const roots = this.#roots
    this.#roots = []
    return work().finally(() => {
      this.#roots = roots
    })
  }

  get #isLine(): boolean {
    return this.#roots.length > 0 && LINE_FAULTS.includes(this.#fault)
  }

  #replace(owner: Record<string, AnyCall>, name: string, make: (call: AnyCall) => AnyCall): void {
    const call = owner[name] as AnyCall
    owner[name] = make(call)
    this.#undo.push(() => {
      owner[name] = call
    })
  }

  #calling(name: string, call: AnyCall): AnyCall {
    const pass = (path: unknown) => this.#passFile(name, path)
    const remember = (handle: object, path: unknown) => this.#paths.set(handle, String(path))
    return async (...words: unknown[]) => {
      pass(words[0])
      const result = await call(...words)
      if (name === 'open') remember(result as object, words[0])
      return result
    }
  }

  #ofHandle(name: string, call: AnyCall): AnyCall {
    const pathOf = (handle: object) => this.#paths.get(handle)
    const pass = (path: unknown) => this.#passFile(name, path)
    return async function (this: FileHandle, ...words: unknown[]) {
      if (pass(pathOf(this)) && READING.has(name)) words[2] = Math.max(1, Number(words[2]) >> 1)
      return call.apply(this, words)
    }
  }

  #opening(call: AnyCall): AnyCall {
    return (...words: unknown[]) => {
      this.#passFile('openSync', words[0])
      const descriptor = call(...words) as number
      this.#descriptors.set(descriptor, String(words[0]))
      return descriptor
    }
  }

  #readingSync(call: AnyCall): AnyCall {
    return (...words: unknown[]) => {
      const short = this.#passFile('readSync', this.#descriptors.get(words[0] as number))
      if (short) words[3] = Math.max(1, Number(words[3]) >> 1)
      return call(...words)
    }
  }

  /** True where the call is to bring less than it should. @throws the fault */
  #passFile(name: string, path: unknown): boolean {
    if (typeof path !== 'string' || LINE_FAULTS.includes(this.#fault)) return false
    if (!this.#roots.some((root) => path.startsWith(root))) return false
    if (this.#fault === 'short' && !READING.has(name)) return false
    return this.#pass(`${name} ${path}`)
  }

  #pass(what: string): boolean {
    if (++this.#count !== this.#at) return false
    this.#met = what
    if (this.#fault === 'short') return true
    const isLine = LINE_FAULTS.includes(this.#fault)
    const code = isLine ? 'PROTOCOL_CONNECTION_LOST' : this.#fault
    throw Object.assign(new Error(`${code}: made to fail${isLine ? '' : `, ${what}`}`), { code })
  }
}
