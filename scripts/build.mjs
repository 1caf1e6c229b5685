/** Builds everything that runs from a bundle: the command line, the background reader, the server and its pages. */
import { buildPrograms } from './setup/build.mjs'

await buildPrograms({ force: process.argv.includes('--force') })
