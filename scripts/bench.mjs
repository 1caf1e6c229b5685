/** `npm run bench -- NAME [words…]`: measurements that are too heavy for `npm test`. */
import { buildPrograms } from './setup/build.mjs'
import { installNodePackages } from './setup/packages.mjs'
import { main, ROOT, run } from './setup/shell.mjs'

await main(async () => {
  await installNodePackages()
  await buildPrograms()
  await run(process.execPath, ['--import', 'tsx', `${ROOT}/bench/main.ts`, ...process.argv.slice(2)])
})
