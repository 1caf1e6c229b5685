import { createReadStream } from 'node:fs'
import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { PassThrough, Readable } from 'node:stream'
import yazl from 'yazl'

/**
 * A folder as a zip, streamed and stored without compression, for media hardly shrink. Entries are added one after the
 * other: the library's time grows with the square of those that wait. An aborted download leaves no file open.
 */
export async function zipOfFolder(folder: string): Promise<ReadableStream<Uint8Array>> {
  const files = (await readdir(folder, { recursive: true, withFileTypes: true })).filter((entry) => entry.isFile())
  const paths = files.map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1)).sort()
  const zip = new yazl.ZipFile()
  const output = zip.outputStream.pipe(new PassThrough())
  let reading: ReturnType<typeof createReadStream> | undefined
  let stopped = false
  output.once('close', () => {
    stopped = true
    reading?.destroy()
  })
  const pump = async () => {
    for (const path of paths) {
      if (stopped) return
      const { mtime, size } = await stat(join(folder, path))
      reading = createReadStream(join(folder, path))
      const ended = new Promise((resolve, reject) =>
        reading?.once('close', () => resolve(undefined)).once('error', reject),
      )
      zip.addReadStream(reading, path, { mtime, size, compress: false })
      await ended
    }
    zip.end()
  }
  pump().catch((thrown: Error) => output.destroy(thrown))
  return Readable.toWeb(output) as ReadableStream<Uint8Array>
}
