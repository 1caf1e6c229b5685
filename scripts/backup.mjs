/** `npm run backup -- FOLDER`: saves Lumbrin's own data, whether it runs or not. */
import { homedir } from 'node:os'
import { join, resolve } from 'node:path'
import { saveOwnData } from './setup/own-data.mjs'
import { main, SetupError, say } from './setup/shell.mjs'

await main(async () => {
  const [to] = process.argv.slice(2)
  if (!to) throw new SetupError('Name a new folder for the backup: npm run backup -- FOLDER')
  const data = resolve(process.env.LUMBRIN_DATA ?? join(homedir(), '.local/share/lumbrin'))
  process.umask(0o077)
  const files = await saveOwnData(data, resolve(to))
  say(`saved: the database and ${files} files of ${data}, read back and listed in ${join(to, 'SHA256SUMS')}`)
})
