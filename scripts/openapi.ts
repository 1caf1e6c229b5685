/** Writes docs/api.openapi.json from the contracts of the application. */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { openApiDocument } from '../apps/workbench/src/api/openapi.js'

const target = join(import.meta.dirname, '../docs/api.openapi.json')
writeFileSync(target, `${JSON.stringify(openApiDocument(), null, 1)}\n`)
console.log(`written: ${target}`)
