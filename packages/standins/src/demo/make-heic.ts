/**
 * Makes the HEIC pictures of the demo with Debian's heif-enc (package libheif-examples):
 * `node --import tsx packages/standins/src/demo/make-heic.ts`. They are kept in the package's folder `heic`.
 */
import { execFileSync } from 'node:child_process'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { Random } from '../random.js'
import { heicFile, NO_TIME, NO_ZONE } from './heic.js'
import { HEIGHT, render, WIDTH } from './photos.js'
import { scene } from './scenes.js'

const DEMO_SEED = 20261114
// Some of the small demo of the tests as well, and the newest of the whole one.
const PICTURES = [3, 9, 15, 20, 57, 200, 281, 290, 296, 299]

const folder = await mkdtemp(join(tmpdir(), 'lumbrin-heic-'))
for (const i of PICTURES) {
  const seed = DEMO_SEED + i
  const from = join(folder, `${seed}.jpg`)
  await writeFile(from, await render(scene(new Random(seed), WIDTH, HEIGHT), NO_TIME, NO_ZONE))
  const to = fileURLToPath(heicFile(seed))
  execFileSync('heif-enc', ['-q', '45', '-o', to, from], { stdio: 'inherit' })
}
await rm(folder, { recursive: true })
