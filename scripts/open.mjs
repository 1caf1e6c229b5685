/** `npm run open`: the address that lets one more browser in, of each Lumbrin of this user that runs. */
import { existsSync, readFileSync } from 'node:fs'
import { homedir } from 'node:os'
import { join } from 'node:path'
import { main, ROOT, SetupError } from './setup/shell.mjs'

const folders = process.env.LUMBRIN_DATA
  ? [process.env.LUMBRIN_DATA]
  : [join(homedir(), '.local/share/lumbrin'), join(ROOT, '.lumbrin/demo'), join(ROOT, '.lumbrin/demo-large')]

await main(async () => {
  const addresses = folders.map((folder) => join(folder, 'address')).filter(existsSync)
  if (addresses.length === 0)
    throw new SetupError('No Lumbrin runs here. Start one with "npm start" or "npm run demo"; it prints its address.')
  for (const path of addresses) process.stdout.write(readFileSync(path, 'utf8'))
})
