/**
 * `npm run demo`: all set-up, and the application with the demo's sources and its first job. `-- --fresh` starts over;
 * `-- --large` is a demo of its own, with 5,000 pictures and 40,000 messages.
 */
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { launch } from './setup/launch.mjs'
import { main, ROOT, run, SetupError, say } from './setup/shell.mjs'

const large = process.argv.includes('--large')
const data = process.env.LUMBRIN_DATA ?? join(ROOT, large ? '.lumbrin/demo-large' : '.lumbrin/demo')
const sources = join(data, 'sources')
const handovers = join(data, 'handovers')

async function buildSources() {
  mkdirSync(handovers, { recursive: true })
  if (!existsSync(sources)) {
    say(`making the demo data (some ${large ? 'minutes' : '20 seconds'})`)
    await run(process.execPath, [
      '--import',
      'tsx',
      'packages/standins/src/demo/build.ts',
      sources,
      ...(large ? ['large'] : []),
    ])
  }
  const [devices, cloud] = await Promise.all([
    startStandIn('device', [join(data, 'devices'), '0', '0']),
    startStandIn('cloud', [join(data, 'cloud'), '0']),
  ])
  const [muxPort, control] = devices.words
  return {
    env: {
      LUMBRIN_DEMO_SOURCES: sources,
      USBMUXD_SOCKET_ADDRESS: `127.0.0.1:${muxPort}`,
      LUMBRIN_RECOVERY: control,
      LUMBRIN_CLOUD: cloud.words[0],
    },
    stop: () => Promise.all([devices.stop(), cloud.stop()]),
  }
}

/** Starts a stand-in that ships with the product, and waits until it says that it is ready, and where. */
function startStandIn(name, words) {
  say(`starting the stand-in for the ${name} (the first time it makes its data)`)
  const child = spawn(process.execPath, ['--import', 'tsx', `packages/standins/src/${name}/main.ts`, ...words], {
    cwd: ROOT,
    detached: true,
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  const ended = new Promise((go) => child.once('exit', go))
  return new Promise((go, fail) => {
    child.once('exit', (code) => fail(new SetupError(`the stand-in for the ${name} ended (${code})`)))
    createInterface({ input: child.stdout }).on('line', (line) => {
      const [said, ...rest] = line.split(' ')
      if (said === 'ready') go({ words: rest, stop: () => child.kill('SIGTERM') && ended })
    })
  })
}

/** The demo's first job, made once, through the same door as everybody's. */
async function openFirstJob(ask) {
  const jobs = await (await ask('/api/jobs')).json()
  if (jobs.length > 0) return
  const send = async (path, body) => (await ask(path, { method: 'POST', body: JSON.stringify(body) })).json()
  const { id } = await send('/api/jobs', FIRST_BRIEF)
  const found = await (await ask('/api/backups')).text()
  const { backup } = found
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
    .find((step) => step.backup)
  await send(`/api/jobs/${id}/sources`, { folder: backup.path })
}

const FIRST_BRIEF = {
  owner: 'Odile Varga',
  device: 'her phone',
  categories: ['photos', 'messages'],
  lostFrom: '2026-10-05',
  lostTo: '2026-11-14',
  people: 'Bram Okafor',
  words: 'stage',
  dueOn: '2026-12-01',
  consent: true,
  notes:
    'Deleted the conversation with her stage carpenter by mistake; the measures of the new folding stage are in it. Some pictures of the autumn tour are gone as well.',
}

await main(async () => {
  if (process.argv.includes('--fresh')) rmSync(data, { recursive: true, force: true })
  await launch({ data, roots: [handovers], before: buildSources, ready: openFirstJob })
})
