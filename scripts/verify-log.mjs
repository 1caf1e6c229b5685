/** `npm run verify-log`: computes the logs of all jobs anew, and says where they are not as they were written. */
import { existsSync, readFileSync } from 'node:fs'
import { homedir } from 'node:os'
import { join } from 'node:path'
import { main, ROOT, SetupError } from './setup/shell.mjs'

const folders = process.env.LUMBRIN_DATA
  ? [process.env.LUMBRIN_DATA]
  : [join(homedir(), '.local/share/lumbrin'), join(ROOT, '.lumbrin/demo')]

/** Lets this script in as a browser, for one question. */
async function ask(address, path) {
  const { origin } = new URL(address)
  const entered = await fetch(address, { redirect: 'manual' })
  const cookie = entered.headers.get('set-cookie')?.split(';')[0]
  if (!cookie) throw new SetupError('Lumbrin did not let this script in. Try again.')
  try {
    return await (await fetch(`${origin}${path}`, { headers: { cookie } })).json()
  } finally {
    await fetch(`${origin}/api/session`, { method: 'DELETE', headers: { cookie, origin } })
  }
}

await main(async () => {
  const path = folders.map((folder) => join(folder, 'address')).find(existsSync)
  if (!path) throw new SetupError('Lumbrin does not run. Start it, then check its logs.')
  const jobs = await ask(readFileSync(path, 'utf8').trim(), '/api/log-check')
  let wrong = 0
  for (const job of jobs) {
    process.stdout.write(
      `${job.number}: ${job.entries} entries, ${job.wrong.length === 0 ? `whole, to ${job.hash}` : 'NOT as written'}\n`,
    )
    for (const words of job.wrong) process.stdout.write(`  ${words}\n`)
    wrong += job.wrong.length
  }
  process.exitCode = wrong === 0 ? 0 : 1
})
