#!/usr/bin/env node
import { existsSync } from 'node:fs'

const program = new URL('../dist/lumbrin.mjs', import.meta.url)
if (!existsSync(program)) {
  console.error('lumbrin is not built yet. Run "npm run demo", "npm start" or "npm run build" once, then try again.')
  process.exit(1)
}
await import(program.href)
