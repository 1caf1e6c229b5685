#!/usr/bin/env node
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { setFlagsFromString } from 'node:v8'

const program = new URL('../dist/lumbrin.mjs', import.meta.url)
if (!existsSync(program)) {
  console.error('lumbrin is not built yet. Run "npm run demo", "npm start" or "npm run build" once, then try again.')
  process.exit(1)
}
// Left to itself the heap may grow to several times what is in use before it is cleared.
setFlagsFromString('--heap-growing-percent=40')
// Packages get the pages that were built with the application.
process.env.LUMBRIN_SITE ??= fileURLToPath(new URL('../../../apps/workbench/dist/site', import.meta.url))
await import(program.href)
