import { setTimeout as sleep } from 'node:timers/promises'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Pass } from '@lumbrin/core/categories/types'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { pair } from '@lumbrin/core/device/pairing'
import { StandInDevice } from '@lumbrin/standins/device/device'
import { BackupFiles } from '@lumbrin/standins/device/files'
import { StandInMultiplexer } from '@lumbrin/standins/device/multiplexer'
import type { Random } from '@lumbrin/standins/random'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { jobDevices } from '../../apps/workbench/src/database/states.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { JobId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { sayDeviceRole } from '../../apps/workbench/src/services/devices.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { beginUnlock, lockState } from '../../apps/workbench/src/services/keyring.js'
import { resumeReturned } from '../../apps/workbench/src/services/presence.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addDevice, addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { isInCloud, LivedAccount } from './account.js'
import { type Capture, isOfAccount, leavesOut, takeAway } from './capture.js'
import type { Life, LifeCategory } from './life.js'

/** What a life came to: how many claims were compared, and those that were wrong, in words. */
export interface Outcome {
  claims: number
  wrong: string[]
}

/** A job over the captures of a life, which is read in one order out of many. */
export class LivedJob {
  jobId = 0 as JobId
  wanted: readonly LifeCategory[] = []
  /** Sources by their captures. */
  readonly sources = new Map<Capture, SourceId>()
  readonly skipped = new Set<string>()
  /** The phone on the cable; undefined: none is attached. */
  #attached: Attached | undefined
  /** The account in the cloud; undefined: none was captured. */
  #account: LivedAccount | undefined

  constructor(
    readonly db: Db,
    readonly random: Random,
    readonly life: Life,
    readonly captures: readonly Capture[],
    readonly outcome: Outcome,
  ) {}

  async open(wanted: readonly LifeCategory[]): Promise<void> {
    this.wanted = wanted
    const device = this.life.devices[0]?.name ?? ''
    const job = await openJob(this.db, briefSchema.parse({ owner: 'Odile Varga', device, categories: wanted }))
    this.jobId = job.id
    this.#account = await LivedAccount.of(this.db, this.jobId, this.captures)
    for (const capture of this.shuffled(this.captures)) {
      const id = await this.#add(capture)
      this.sources.set(capture, id)
      if (capture.password === null) continue
      await beginUnlock(this.db, id, capture.password)
      while (lockState(id).state === 'opening') await sleep(2)
    }
    for (const { key, name } of (await jobDevices(this.db, this.jobId)).devices)
      if (this.life.devices.find((one) => one.name === name)?.role === 'other')
        await sayDeviceRole(this.db, this.jobId, key, 'other')
  }

  async #add(capture: Capture): Promise<SourceId> {
    const added = await this.#account?.add(capture)
    if (added !== undefined) return added
    if (capture.kind !== 'device') return addSource(this.db, this.jobId, capture.folder)
    this.#attached = await attach(this.life, capture)
    return addDevice(this.db, this.jobId, this.#attached.udid)
  }

  async close(): Promise<void> {
    await this.#account?.close()
    await this.#attached?.close()
    delete process.env.USBMUXD_SOCKET_ADDRESS
  }

  shuffled<T>(list: readonly T[]): T[] {
    return list
      .map((one) => [this.random.next(), one] as const)
      .sort(([a], [b]) => a - b)
      .map(([, one]) => one)
  }

  /** Reads everything, in pieces of any size, some of which are broken off. */
  async read(categories: readonly LifeCategory[], lacking: Capture, unread: readonly LifeCategory[]): Promise<void> {
    const pieces: { capture: Capture; categories: LifeCategory[]; passes: Pass[] }[] = []
    for (const capture of this.captures) {
      const able = categories.filter((one) => !isOfAccount(capture) || !leavesOut(capture.kind, one))
      const all = this.shuffled(able.filter((one) => capture !== lacking || !unread.includes(one)))
      const atOnce = capture.kind === 'device' || isOfAccount(capture)
      if (capture === lacking) for (const category of unread) this.skipped.add(category)
      while (all.length > 0)
        // Each read of a device or an account is a state of its own: one takes in all.
        pieces.push({
          capture,
          categories: all.splice(0, atOnce ? all.length : this.random.int(1, all.length)),
          passes: isOfAccount(capture) ? ['live'] : ['live', 'residue'],
        })
    }
    for (const { capture, categories: some, passes } of this.shuffled(pieces))
      await this.#readPiece(capture, some, passes)
  }

  async #readPiece(capture: Capture, categories: readonly CategoryId[], passes: readonly Pass[]): Promise<void> {
    const source = this.sources.get(capture) as SourceId
    const id = await startRead(this.db, source, { categories, passes })
    for (let tries = 0; ; tries++) {
      const state = (await findRead(this.db, id))?.state
      if (state === 'done' || state === 'gaps') return
      if (tries > 20) throw new Error(`read ${id} does not end: ${state}`)
      await claimWork(this.db, 'reads', 'life:1')
      const stop = new AbortController()
      const away = tries < 2 && this.random.chance(0.12)
      const back = away ? await this.#takeAway(capture) : undefined
      if (tries < 3 && this.random.chance(0.15)) setTimeout(() => stop.abort(), this.random.int(0, 40))
      await runRead(this.db, id, stop.signal)
      if (!back) continue
      const waits = (await findRead(this.db, id))?.state ?? ''
      // What was listed of a cloud backup and fetched before is read without the cloud.
      const may = isInCloud(capture) ? ['away', 'queued', 'done'] : ['away', 'queued']
      if (!may.includes(waits)) this.wrong('a read', `its source was taken away, and it is ${waits}`)
      await back()
      await resumeReturned(this.db)
    }
  }

  /** Takes away what a capture is read from; gives what brings it back. */
  async #takeAway(capture: Capture): Promise<(() => void | Promise<void>) | undefined> {
    if (capture.kind === 'device') return this.#attached?.unplug()
    // Archives are lists, which come when they are added: nothing is fetched for a read.
    if (capture.kind === 'archives') return undefined
    return isInCloud(capture) ? this.#account?.cutOff() : takeAway(capture)
  }

  wrong(what: string, words: string): void {
    this.outcome.wrong.push(`seed ${this.life.seed}, ${what}: ${words}`)
  }

  check(what: string, name: string, is: unknown, should: unknown): void {
    this.outcome.claims++
    if (is !== should) this.wrong(what, `${name} is ${is} and should be ${should}`)
  }
}

interface Attached {
  udid: string
  unplug(): () => void
  close(): Promise<void>
}

/** The phone of a life on the cable, trusting this computer, with what a capture shows. */
async function attach(life: Life, { folder, device }: Capture): Promise<Attached> {
  const { udid, name } = life.devices[device] as Life['devices'][number]
  const identity = { udid, name, productType: 'iPhone14,5', osVersion: '17.6', capacity: 64e9 }
  const phone = new StandInDevice(identity, await BackupFiles.open(folder), {})
  const bus = new StandInMultiplexer()
  bus.add(phone)
  await bus.listen({ host: '127.0.0.1', port: 0 })
  process.env.USBMUXD_SOCKET_ADDRESS = `127.0.0.1:${bus.port}`
  const mux = new Multiplexer({ host: '127.0.0.1', port: bus.port })
  const [attached] = await mux.devices()
  if (!attached) throw new Error('the phone is not on the cable')
  const lockdown = await Lockdown.open(mux, attached)
  await pair(mux, attached, lockdown)
  lockdown.close()
  return {
    udid,
    unplug: () => {
      phone.set({ plugged: false })
      return () => phone.set({ plugged: true })
    },
    close: () => bus.close(),
  }
}
