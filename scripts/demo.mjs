/**
 * `npm run demo`: all set-up, and the application with the demo's sources and its first job. `-- --fresh` starts over;
 * `-- --large` is a demo of its own, with 5,000 pictures and 40,000 messages, and `-- --small` one with few of each, which is
 * made in seconds. `npm run dev` is another one, whose programs run from their sources.
 */
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { openJobs } from './demo-jobs.mjs'
import { holdFolder } from './setup/instance.mjs'
import { FROM_SOURCES, launch, startingWith } from './setup/launch.mjs'
import { freePort } from './setup/mariadb.mjs'
import { main, ROOT, run, SetupError, say } from './setup/shell.mjs'
import { bound } from './setup/supervisor.mjs'

const dev = process.argv.includes('--dev')
const size = ['large', 'small'].find((one) => process.argv.includes(`--${one}`)) ?? 'full'
const NAME = size !== 'full' ? `demo-${size}` : dev ? 'dev' : 'demo'
// Devices and cloud of the large demo are those of the full one: the disk alone has more.
const standInSize = size === 'small' ? 'small' : 'full'
const data = process.env.LUMBRIN_DATA ?? join(ROOT, '.lumbrin', NAME)
const sources = join(data, 'sources')
const handovers = join(data, 'handovers')

async function buildSources() {
  mkdirSync(handovers, { recursive: true })
  if (!existsSync(sources)) {
    say(`making the demo data (some ${size === 'large' ? 'minutes' : '20 seconds'})`)
    await run(process.execPath, ['packages/standins/dist/demo/main.mjs', sources, size])
  }
  const [muxPort, controlPort, cloudPort] = [await freePort(), await freePort(), await freePort()]
  const parts = [
    standIn('device', [join(data, 'devices'), String(muxPort), String(controlPort), standInSize]),
    standIn('cloud', [join(data, 'cloud'), String(cloudPort), standInSize]),
  ]
  const [devices, cloud] = await Promise.all(parts.map(({ ready }) => ready))
  return {
    env: {
      LUMBRIN_DEMO_SOURCES: sources,
      USBMUXD_SOCKET_ADDRESS: `127.0.0.1:${devices[0]}`,
      LUMBRIN_RECOVERY: devices[1],
      LUMBRIN_CLOUD: cloud[0],
    },
    parts,
  }
}

/** A stand-in that ships with the product, as a part of the application; `ready` tells where it is, once it is there. */
function standIn(name, words) {
  say(`starting the stand-in for the ${name} (the first time it makes its data)`)
  const [command, args] = bound(process.execPath, [`packages/standins/dist/${name}/main.mjs`, ...words])
  const start = () => spawn(command, args, { cwd: ROOT, detached: true, stdio: ['ignore', 'pipe', 'inherit'] })
  const first = start()
  const ready = new Promise((go, fail) => {
    first.once('exit', (code) => fail(new SetupError(`the stand-in for the ${name} ended (${code})`)))
    createInterface({ input: first.stdout }).on('line', (line) => {
      const [said, ...rest] = line.split(' ')
      if (said === 'ready') go(rest)
    })
  })
  return { name: `the stand-in for the ${name}`, start: startingWith(first, start), ready }
}

await main(async () => {
  if (process.argv.includes('--fresh') && existsSync(data)) {
    // Not under the feet of one that runs.
    holdFolder(data)
    rmSync(data, { recursive: true, force: true })
  }
  const programs = dev ? { programs: FROM_SOURCES } : {}
  await launch({
    data,
    roots: [handovers],
    before: buildSources,
    ready: (ask) => openJobs(ask, handovers),
    ...programs,
  })
})
