import { createWriteStream } from 'node:fs'
import { rename, rm } from 'node:fs/promises'
import type { Writable } from 'node:stream'
import { finished } from 'node:stream/promises'
import type { Warning } from '@lumbrin/core/io/errors'

/** Writes JSON Lines to a stream, waiting where it is slower than we are. */
export class LineWriter {
  #buffer = ''
  constructor(readonly stream: Writable) {}

  write(value: unknown): Promise<void> {
    return this.writeText(`${JSON.stringify(value)}\n`)
  }

  /** A line that is JSON already, with its line end. */
  async writeText(line: string): Promise<void> {
    this.#buffer += line
    if (this.#buffer.length > 1 << 16) await this.flush()
  }

  async flush(): Promise<void> {
    const text = this.#buffer
    this.#buffer = ''
    if (text !== '' && !this.stream.write(text)) await new Promise((resolve) => this.stream.once('drain', resolve))
  }
}

/**
 * Runs `work` with a writer to the file, or to standard output where none is named. The file appears under its name
 * only when it is complete.
 */
export async function withOutput(file: string | undefined, work: (lines: LineWriter) => Promise<void>): Promise<void> {
  const part = file && `${file}.part`
  const stream = part ? createWriteStream(part) : process.stdout
  const lines = new LineWriter(stream)
  try {
    await work(lines)
    await lines.flush()
    if (!part || !file) return
    stream.end()
    await finished(stream)
    await rename(part, file)
  } catch (thrown) {
    if (part) await rm(part, { force: true })
    throw thrown
  }
}

/** Tells a warning on standard error; the same one only once. */
export function warnOnStderr(): (warning: Warning) => void {
  const told = new Set<string>()
  return ({ message, path }) => {
    const line = `warning: ${path && !message.includes(path) ? `${path}: ` : ''}${message}\n`
    if (!told.has(line)) process.stderr.write(line)
    told.add(line)
  }
}
