import { execFileSync, spawn } from 'node:child_process'
import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { CopyChecker } from '@lumbrin/core/copies/check'
import { copiesIn } from '@lumbrin/core/copies/place'
import { Random } from '@lumbrin/standins/random'
import { LivedDevice } from '../setup/lived-device.js'

const WORKER = join(import.meta.dirname, 'copies-worker.ts')
export const WORKS = ['copy', 'remove', 'move', 'clear'] as const
export type Work = (typeof WORKS)[number]
export const CUTS = ['kill', 'pull'] as const
export type Cut = (typeof CUTS)[number]

/** A place of copies at which work is cut off: its process is killed, or its disk is pulled amid. */
export class CutCopies {
  readonly #device = new LivedDevice()
  readonly #random = new Random(260)
  #place: string
  #moves = 0
  /** Milliseconds that each work took when nothing cut it. */
  readonly #took: Record<Work, number> = { copy: 300, remove: 100, move: 600, clear: 60 }

  constructor(readonly folder: string) {
    this.#place = join(folder, 'place-0')
  }

  /** Two copies, whole. */
  async begin(): Promise<void> {
    for (let week = 0; week < 2; week++) await this.#done('copy', await this.#nextBackup(), this.#place)
  }

  /** Cuts off one piece of work, looks at what is there, and does it again to its end. @returns what was not right */
  async cut(work: Work, cut: Cut): Promise<string[]> {
    const { copies } = await copiesIn(this.#place)
    const whole = copies.map(({ folder }) => folder)
    const [from, to] = await this.#asked(work, whole)
    const staying = work === 'remove' ? whole.filter((folder) => folder !== from) : whole
    // Where a place is cleared, the copies are in the new one.
    const safe = work === 'clear' ? (await copiesIn(to)).copies.map(({ folder }) => folder) : staying
    const share = this.#random.next() * 1.1
    await this.#cutOff([work, from, to], cut, share * this.#took[work])
    const wrong = await this.#notWhole(safe)
    await this.#done(work, from, to)
    if (work === 'clear') this.#place = to
    const now = (await copiesIn(work === 'move' ? to : this.#place)).copies.map(({ folder }) => folder)
    if (now.length !== safe.length + (work === 'copy' ? 1 : 0)) wrong.push(`${now.length} copies after it was done`)
    wrong.push(...(await this.#notWhole(now)))
    // The next one is moved from where it is.
    if (work === 'move') rmSync(to, { recursive: true })
    return wrong
  }

  async #asked(work: Work, whole: readonly string[]): Promise<[from: string, to: string]> {
    switch (work) {
      case 'copy':
        return [await this.#nextBackup(), this.#place]
      case 'remove':
        return [whole[0] as string, this.#place]
      case 'move':
        return [this.#place, this.#nextPlace()]
      case 'clear': {
        const to = this.#nextPlace()
        await this.#done('move', this.#place, to)
        return [this.#place, to]
      }
    }
  }

  #nextPlace = () => join(this.folder, `place-${++this.#moves}`)

  async #nextBackup(): Promise<string> {
    rmSync(join(this.folder, 'backups'), { recursive: true, force: true })
    mkdirSync(join(this.folder, 'backups'), { recursive: true })
    this.#device.live()
    return this.#device.backup(join(this.folder, 'backups'))
  }

  /** @throws where the work fails though nothing cut it */
  async #done(work: Work, from: string, to: string): Promise<void> {
    const run = this.#start([work, from, to])
    await run.begun
    const began = performance.now()
    const { code, said } = await run.ended
    if (code !== 0) throw new Error(`${work} failed: ${said}`)
    this.#took[work] = performance.now() - began
  }

  async #cutOff(words: string[], cut: Cut, afterMs: number): Promise<void> {
    const run = this.#start(words)
    await run.begun
    await new Promise((resolve) => setTimeout(resolve, afterMs))
    if (cut === 'kill') {
      run.process.kill('SIGKILL')
      await run.ended
      return
    }
    // Cleared already: there is nothing to pull.
    if (!existsSync(this.#place)) return void (await run.ended)
    const away = `${this.#place}-in-a-pocket`
    renameSync(this.#place, away)
    await run.ended
    // Nothing may have been created at the disk's path while it was away.
    const instead = existsSync(this.#place)
    rmSync(this.#place, { recursive: true, force: true })
    renameSync(away, this.#place)
    if (instead) throw new Error(`something was written to where the place was, by: ${words.join(' ')}`)
  }

  #start(words: string[]) {
    const child = spawn(process.execPath, ['--import', 'tsx', WORKER, ...words], { stdio: ['ignore', 'pipe', 'pipe'] })
    let said = ''
    child.stderr.on('data', (piece) => {
      said += piece
    })
    const ended = new Promise<{ code: number | null; said: string }>((resolve) =>
      child.on('close', (code) => resolve({ code, said })),
    )
    return {
      process: child,
      begun: Promise.race([new Promise((resolve) => child.stdout.once('data', resolve)), ended]),
      ended,
    }
  }

  async #notWhole(folders: readonly string[]): Promise<string[]> {
    const wrong: string[] = []
    const checker = new CopyChecker()
    for (const folder of folders) {
      for (const { name, why } of (await checker.check(folder)).problems) wrong.push(`${folder}: ${name}: ${why}`)
      // GNU coreutils, by the layout alone.
      execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'], { cwd: folder })
    }
    return wrong
  }
}
