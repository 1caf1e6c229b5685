/** `npm run bench -- NAME [words…]`: measurements that are too heavy for `npm test`. */
import { installNodePackages } from './setup/packages.mjs'
import { main, ROOT, run, SetupError } from './setup/shell.mjs'

await main(async () => {
  await installNodePackages()
  const [name, ...words] = process.argv.slice(2)
  if (name !== 'residue') throw new SetupError('Name a bench: residue')
  await run(process.execPath, ['--import', 'tsx', `${ROOT}/bench/main.ts`, name, ...words])
})
