import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { CloudClient } from '@lumbrin/core/cloud/client'
import { CloudCollector } from '@lumbrin/core/cloud/collector'
import { beginSignIn, CloudLine, confirmSignIn } from '@lumbrin/core/cloud/session'
import { Collection } from '@lumbrin/core/collected/collection'

/** Downloads a snapshot, beside a plain HTTP client that fetches the same pieces, in one run. */
export async function benchCloud(): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lumbrin-bench-cloud-'))
  const server = spawn(process.execPath, ['packages/standins/dist/cloud/main.mjs', join(folder, 'data'), '0'], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  try {
    const [said] = (await once(createInterface({ input: server.stdout }), 'line')) as [string]
    const address = said.split(' ')[1] as string
    const { challenge } = await beginSignIn(address, 'odile@theatre.example', 'curtain call')
    const { token } = await confirmSignIn(address, challenge, '271828')
    const client = new CloudClient(new CloudLine(address, async () => token))
    await compare(address, token, client, folder)
  } finally {
    server.kill()
    await rm(folder, { recursive: true, force: true })
  }
}

async function compare(address: string, token: string, client: CloudClient, folder: string): Promise<void> {
  const files = []
  for await (const file of client.snapshotFiles('snapshot-2026-11-24')) files.push(file)
  const chunks = files.flatMap((file) => file.chunks)
  const bytes = chunks.reduce((sum, { size }) => sum + size, 0)
  const plainly = async () => {
    for (const { sha256 } of chunks)
      await (
        await fetch(`${address}/v1/chunks/${sha256}`, { headers: { authorization: `Bearer ${token}` } })
      ).arrayBuffer()
  }
  const signal = new AbortController().signal
  let rounds = 0
  const ours = async () => {
    const to = join(folder, `snapshot-${rounds++}`)
    await new Collection(to).writeHeader(HEADER)
    const collector = new CloudCollector(client, 'snapshot-2026-11-24', {
      folder: to,
      report: () => {},
      progress: () => {},
      signal,
    })
    await collector.begin()
    const queue = (await new Collection(to).listing()).entries.filter(({ kind }) => kind === 'file').values()
    const work = async () => {
      for (const entry of queue) await collector.fetch(entry)
    }
    await Promise.all(Array.from({ length: 24 }, work))
  }
  // In turns, so that both meet the same machine.
  const times: [number, number][] = []
  for (let round = 0; round < 3; round++) times.push([await seconds(plainly), await seconds(ours)])
  const [plain, mine] = [0, 1].map(
    (of) => times.map((pair) => pair[of] as number).sort((a, b) => a - b)[1] as number,
  ) as [number, number]
  console.log(
    `${chunks.length} pieces, ${(bytes / 1e6).toFixed(1)} MB: plain client, one after the other ${plain.toFixed(2)} s; ours, checked and kept ${mine.toFixed(2)} s; ratio ${(plain / mine).toFixed(2)}`,
  )
  console.log(`memory ${Math.round(process.memoryUsage.rss() / 1e6)} MB`)
}

const HEADER = {
  kind: 'cloud-backup' as const,
  deviceName: null,
  productType: null,
  osVersion: null,
  uniqueId: null,
  takenAt: null,
  installedApps: [],
  origin: {},
}

async function seconds(work: () => Promise<void>): Promise<number> {
  const started = performance.now()
  await work()
  return (performance.now() - started) / 1000
}
