import { join } from 'node:path'
import { inject, vi } from 'vitest'

// Test files share a process, which spares loading every library anew. The project's own modules are loaded for each, so
// that nothing that one of them keeps leads from test to test.
vi.resetModules()

process.env.LUMBRIN_MEDIA_PROGRAM = join(inject('programs'), 'media.mjs')
