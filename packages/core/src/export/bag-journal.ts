import { type FileHandle, open, readFile, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import { sha256OfFile } from './bag-check.js'
import { type BagFile, PAYLOAD } from './bag-types.js'

const NAME = 'written.jsonl'

const lineSchema = z.object({ place: z.string(), key: z.string(), bytes: z.number(), sha256: z.string() })
type Line = z.infer<typeof lineSchema>

/** What has been copied into a bag that is not finished: a later attempt copies only the rest. */
export class BagJournal {
  /** An earlier attempt left something. */
  resumed = false
  readonly #known = new Map<string, Line>()
  #file: FileHandle | undefined

  constructor(readonly folder: string) {}

  /** Reads what an earlier attempt noted, and goes on behind it. */
  async open(): Promise<void> {
    const text = await readFile(join(this.folder, NAME), 'utf8').catch(() => undefined)
    this.resumed = text !== undefined
    for (const line of text?.split('\n') ?? []) {
      const parsed = lineOf(line)
      if (parsed) this.#known.set(parsed.place, parsed)
    }
    this.#file = await open(join(this.folder, NAME), 'a')
    // The last line of a process that was killed may be cut.
    if (text !== undefined && !text.endsWith('\n')) await this.#file.write('\n')
  }

  /** A file of an earlier attempt, if it is the one meant and still what it was; its bytes are hashed again. */
  async verified(place: string, key: string, path: string): Promise<BagFile | undefined> {
    const known = this.#known.get(place)
    if (known?.key !== key) return undefined
    const found = await stat(path).catch(() => undefined)
    if (!found?.isFile() || found.size !== known.bytes || (await sha256OfFile(path)) !== known.sha256) return undefined
    return { path: `${PAYLOAD}/${place}`, bytes: known.bytes, sha256: known.sha256 }
  }

  async note(place: string, key: string, { bytes, sha256 }: BagFile): Promise<void> {
    await this.#file?.write(`${JSON.stringify({ place, key, bytes, sha256 })}\n`)
  }

  async close(): Promise<void> {
    await this.#file?.close()
    this.#file = undefined
  }

  async remove(): Promise<void> {
    await this.close()
    await rm(join(this.folder, NAME), { force: true })
  }
}

function lineOf(text: string): Line | undefined {
  try {
    return lineSchema.safeParse(JSON.parse(text)).data
  } catch {
    return undefined
  }
}
