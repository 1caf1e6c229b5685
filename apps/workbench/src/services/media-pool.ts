import { type ChildProcess, type ForkOptions, fork } from 'node:child_process'
import { once } from 'node:events'
import { dirname, resolve } from 'node:path'
import type { Fingerprint } from '@lumbrin/core/media/fingerprint'
import type { ShownAs } from '@lumbrin/core/media/picture'
import { readConfig } from '../config.js'
import { AppError } from '../domain/errors.js'
import type { MediaAnswer, MediaTask } from '../media/main.js'

// The machine's cores; each decodes one picture at a time, so that memory stays bounded.
const PROCESSES = 2
// The largest HEIC pictures take some seconds; what takes longer is a trap.
const MOST_MS = 30_000
const HEAP_MB = 512
// After so many pictures a process is replaced: decoders of strangers' bytes do not only leak in theory.
const TASKS_EACH = 2000

/**
 * What keeps a decoder from the files of this computer: it reads its own program and libraries, writes nothing, and starts
 * nothing. The permission model of Node 20 says nothing of the network; a decoder that was taken over could still use it.
 */
function confined(program: string): string[] {
  const top = resolve(dirname(program), '../../..')
  return ['--experimental-permission', `--allow-fs-read=${top}/*`, '--allow-addons', '--no-warnings']
}

/** One process, its present task, and how much it has done. */
class Worker {
  readonly #child: ChildProcess
  tasks = 0
  dead = false

  constructor() {
    const { mediaProgram } = readConfig()
    const options: ForkOptions = {
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
      // It holds no secrets of ours.
      env: { PATH: process.env.PATH, NODE_ENV: process.env.NODE_ENV },
    }
    this.#child = mediaProgram
      ? fork(mediaProgram, [], { ...options, execArgv: [`--max-old-space-size=${HEAP_MB}`, ...confined(mediaProgram)] })
      : fork('apps/workbench/src/media/main.ts', [], { ...options, execArgv: ['--import', 'tsx'] })
    for (const event of ['exit', 'error']) this.#child.on(event, () => (this.dead = true))
    this.#child.unref()
    this.#child.channel?.unref()
  }

  /** @throws AppError('unusable') where the picture cannot be shown, the process died of it, or it took too long */
  async run(task: MediaTask): Promise<unknown> {
    this.tasks++
    const stop = new AbortController()
    const timer = setTimeout(() => this.end(), MOST_MS)
    this.#child.channel?.ref()
    try {
      this.#child.send({ id: this.tasks, task })
      const answer = await Promise.race([
        once(this.#child, 'message', { signal: stop.signal }).then(([message]) => message as MediaAnswer),
        once(this.#child, 'exit', { signal: stop.signal }).then(() => undefined),
      ])
      if (answer && 'result' in answer) return answer.result
      throw new AppError('unusable', 'This picture cannot be shown.', { cause: answer?.error })
    } finally {
      clearTimeout(timer)
      stop.abort()
      this.#child.channel?.unref()
    }
  }

  end(): void {
    this.dead = true
    this.#child.kill('SIGKILL')
  }
}

const idle: Worker[] = []
const waiting: (() => void)[] = []
let busy = 0

/** The last one who asks comes first: a grid that is scrolled shows what is in view, and gives the rest up. */
async function run(task: MediaTask, signal?: AbortSignal): Promise<unknown> {
  while (busy >= PROCESSES) await turnOf(signal)
  busy++
  const worker = living() ?? new Worker()
  try {
    return await worker.run(task)
  } finally {
    busy--
    if (worker.tasks >= TASKS_EACH) worker.end()
    if (!worker.dead) idle.push(worker)
    waiting.pop()?.()
  }
}

/** Waits to be called; whoever is given up leaves at once, and the bytes of the picture with it. */
function turnOf(signal?: AbortSignal): Promise<void> {
  const givenUp = () => new AppError('unusable', 'Nobody waits for this picture any more.')
  return new Promise((turn, leave) => {
    if (signal?.aborted) return leave(givenUp())
    waiting.push(turn)
    signal?.addEventListener('abort', () => {
      const at = waiting.indexOf(turn)
      if (at < 0) return
      waiting.splice(at, 1)
      leave(givenUp())
    })
  })
}

/** A process that waits; those that ended meanwhile are forgotten. */
function living(): Worker | undefined {
  for (let worker = idle.pop(); worker; worker = idle.pop()) if (!worker.dead) return worker
  return undefined
}

interface ShownOptions {
  as?: ShownAs
  signal?: AbortSignal | undefined
}

/** A picture of at most `edge` pixels a side. @throws AppError('unusable'), also when nobody waits any more */
export const shown = (bytes: Uint8Array, edge: number, { as = 'webp', signal }: ShownOptions = {}) =>
  run({ kind: 'shown', bytes, edge, as }, signal) as Promise<Uint8Array<ArrayBuffer>>

/** How a picture looks, in few bits; undefined: it is too plain to tell. @throws AppError('unusable') */
export const fingerprintOf = (bytes: Uint8Array) =>
  run({ kind: 'fingerprint', bytes }) as Promise<Fingerprint | undefined>
