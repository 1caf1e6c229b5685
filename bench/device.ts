import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { pipeline } from 'node:stream/promises'
import { readStep } from '@lumbrin/core/categories/read'
import { openSource } from '@lumbrin/core/collected/open'
import { DeviceCollector } from '@lumbrin/core/device/collector'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { pair } from '@lumbrin/core/device/pairing'

/**
 * Reads a large made-up phone over its cable: how soon the first finding is there, how fast its bytes come beside a plain
 * copy of as many bytes over a loopback socket, and how much memory it takes. `device [ITEMS] [BYTES]`.
 */
export async function benchDevice([items = '25000', bytes = '8000000000']: string[]): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lumbrin-bench-device-'))
  const server = spawn(process.execPath, ['--import', 'tsx', 'bench/device-server.ts', items, bytes], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  try {
    const [said] = (await once(createInterface({ input: server.stdout }), 'line')) as [string]
    const [, muxPort, plainPort] = said.split(' ').map(Number)
    const plain = await copyPlainly(plainPort as number, join(folder, 'plain'))
    await readPhone(
      new Multiplexer({ host: '127.0.0.1', port: muxPort as number }),
      join(folder, 'phone'),
      Number(bytes),
      plain,
    )
  } finally {
    server.kill()
    await rm(folder, { recursive: true, force: true })
  }
}

async function copyPlainly(port: number, to: string): Promise<number> {
  const started = performance.now()
  await pipeline(connect(port, '127.0.0.1'), createWriteStream(to))
  const seconds = (performance.now() - started) / 1000
  await rm(to)
  console.log(`plain copy over a loopback socket: ${seconds.toFixed(1)} s`)
  return seconds
}

async function readPhone(mux: Multiplexer, folder: string, bytes: number, plain: number): Promise<void> {
  const [device] = await mux.devices()
  if (!device) throw new Error('no device')
  await pair(mux, device, await Lockdown.open(mux, device))
  const signal = new AbortController().signal
  const collector = new DeviceCollector(mux, device.udid, { folder, report: console.error, progress: () => {}, signal })
  const started = performance.now()
  const since = () => (performance.now() - started) / 1000
  let peak = 0
  const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage.rss())), 50)
  await collector.begin(true)
  console.log(`listed after ${since().toFixed(2)} s`)
  const tree = await openSource(folder, console.error, {}, collector.fetch)
  let count = 0
  for await (const _ of readStep(tree, { category: 'photos', pass: 'live' }, console.error))
    if (count++ === 0) console.log(`first finding after ${since().toFixed(2)} s`)
  console.log(`${count} findings after ${since().toFixed(1)} s`)
  const queue = [...tree.entries()].filter(({ kind }) => kind === 'file').values()
  const work = async () => {
    for (const entry of queue) await (await tree.open(entry))?.close()
  }
  await Promise.all(Array.from({ length: 24 }, work))
  clearInterval(watch)
  await collector.close()
  console.log(
    `${bytes / 1e9} GB after ${since().toFixed(1)} s: ${(plain / since()).toFixed(2)} of the plain copy's speed, ${Math.round(peak / 1e6)} MB of memory`,
  )
}
