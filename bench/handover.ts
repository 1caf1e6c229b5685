import { execFileSync } from 'node:child_process'
import { createWriteStream, mkdirSync, mkdtempSync, rmSync, statSync } from 'node:fs'
import { open } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { Sighting } from '@lumbrin/core/categories/types'
import type { HandoverItem } from '@lumbrin/core/export/format'
import { writePackage } from '@lumbrin/core/export/package'
import { FileSource } from '@lumbrin/core/io/file'
import { zipOfFolder } from '../apps/workbench/src/server/zip.js'

const FILE_BYTES = 4_000_000

/**
 * A handover of many files against copying the same ones with `cp` and hashing them with `sha256sum`, without and with the
 * flushing and the check that a package has, and the zip of it read back by Debian's unzip:
 * `npm run bench -- handover [GB]`.
 */
export async function benchHandover(words: string[]): Promise<void> {
  const gigabytes = Number(words[0] ?? 10)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-handover-'))
  try {
    const files = await madeFiles(join(folder, 'source'), Math.round((gigabytes * 1e9) / FILE_BYTES))
    const theirs = timedSync(() => {
      execFileSync('cp', ['-r', join(folder, 'source'), join(folder, 'copy')])
      execFileSync('sh', ['-c', `cd '${folder}/copy' && find . -type f -exec sha256sum {} + > ../sums`])
    })
    // What the package promises beyond that: it is on the disk, and was read back.
    const kept = timedSync(() =>
      execFileSync('sh', ['-c', `cd '${folder}/copy' && sync -f . && sha256sum --quiet -c ../sums`]),
    )
    rmSync(join(folder, 'copy'), { recursive: true })
    const to = join(folder, 'package')
    const started = performance.now()
    const summary = await writePackage(itemsOf(files), {
      to,
      subject: { jobNumber: null, owner: null, device: null, sought: null },
    })
    const ours = (performance.now() - started) / 1000
    const memory = Math.round(process.resourceUsage().maxRSS / 1000)
    console.log(
      `${gigabytes} GB in ${summary.items} files: ours ${ours.toFixed(1)} s, cp and sha256sum ${theirs.toFixed(1)} s; ratio ${(ours / theirs).toFixed(2)}; with sync and sha256sum -c ${(theirs + kept).toFixed(1)} s; ratio ${(ours / (theirs + kept)).toFixed(2)}; memory ${memory} MB at most`,
    )
    execFileSync('sh', ['-c', `cd '${to}' && sha256sum --strict --quiet -c manifest-sha256.txt`])
    const zip = join(folder, 'package.zip')
    await pipeline(Readable.fromWeb((await zipOfFolder(to)) as never), createWriteStream(zip))
    execFileSync('unzip', ['-tqq', zip])
    console.log(`a zip of ${(statSync(zip).size / 1e9).toFixed(1)} GB, which unzip finds whole`)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Files whose bytes are all different, so that none is left out as a duplicate. */
async function madeFiles(folder: string, count: number): Promise<string[]> {
  mkdirSync(folder)
  const bytes = Buffer.alloc(FILE_BYTES, 7)
  const paths: string[] = []
  for (let i = 0; i < count; i++) {
    bytes.writeUInt32LE(i)
    const path = join(folder, `IMG_${String(i).padStart(5, '0')}.JPG`)
    const file = await open(path, 'w')
    await file.write(bytes)
    await file.close()
    paths.push(path)
  }
  return paths
}

async function* itemsOf(paths: readonly string[]): AsyncGenerator<HandoverItem> {
  for (const [i, path] of paths.entries()) {
    const name = path.slice(path.lastIndexOf('/') + 1)
    const when = new Date(Date.UTC(2024, 0, 1) + i * 3_600_000).toISOString()
    const sighting: Sighting = {
      category: 'photos',
      condition: 'live',
      when,
      title: name,
      text: null,
      fields: { fileName: name },
      content: { name, bytes: FILE_BYTES, mime: 'image/jpeg', sha256: null, domain: 'd', path: name },
      origin: { domain: 'd', path: name, table: null, rowid: i, place: 'live', page: null, offset: null },
      missing: [],
      confidence: 1,
    }
    yield { sighting, standing: 'kept', open: () => FileSource.open(path), reveal: async () => undefined }
  }
}

function timedSync(work: () => void): number {
  const started = performance.now()
  work()
  return (performance.now() - started) / 1000
}
