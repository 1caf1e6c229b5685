import { readdirSync, existsSync } from 'node:fs'
import { join } from 'node:path'
import { buildDemo, DEMO_PASSWORD } from '@lumbrin/standins/demo/build'
