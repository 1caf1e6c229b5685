/** `npm run restore -- FOLDER`: brings back what `npm run backup` saved, into a data folder in which there is nothing. */
import { existsSync, mkdirSync } from 'node:fs'
import { homedir } from 'node:os'
import { join, resolve } from 'node:path'
import { holdFolder } from './setup/instance.mjs'
import { bringOwnData } from './setup/own-data.mjs'
import { main, SetupError, say } from './setup/shell.mjs'

await main(async () => {
  const [from] = process.argv.slice(2)
  if (!from || !existsSync(from)) throw new SetupError('Name the folder of the backup: npm run restore -- FOLDER')
  const data = resolve(process.env.LUMBRIN_DATA ?? join(homedir(), '.local/share/lumbrin'))
  process.umask(0o077)
  mkdirSync(data, { recursive: true, mode: 0o700 })
  const letGo = holdFolder(data)
  const files = await bringOwnData(resolve(from), data)
  letGo()
  say(`brought back: the database and ${files} files, into ${data}. Start Lumbrin to go on.`)
})
