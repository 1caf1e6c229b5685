import { homedir } from 'node:os'
import { delimiter, join } from 'node:path'
import { z } from 'zod'

const schema = z.object({
  LUMBRIN_DATABASE_URL: z.string().min(1),
  LUMBRIN_DATA: z.string().default(join(homedir(), '.local/share/lumbrin')),
  LUMBRIN_PORT: z.coerce.number().int().min(0).max(65535).default(4680),
  LUMBRIN_ROOTS: z.string().default(homedir()),
  LUMBRIN_DEMO_SOURCES: z.string().optional(),
  LUMBRIN_READER_SECRET: z.string().min(32).optional(),
})

/** Settings of the process. @throws ZodError that names the variable which is wrong */
export function readConfig(environment: NodeJS.ProcessEnv = process.env) {
  const {
    LUMBRIN_DATABASE_URL,
    LUMBRIN_DATA,
    LUMBRIN_PORT,
    LUMBRIN_ROOTS,
    LUMBRIN_DEMO_SOURCES,
    LUMBRIN_READER_SECRET,
  } = schema.parse(environment)
  return {
    databaseUrl: LUMBRIN_DATABASE_URL,
    dataFolder: LUMBRIN_DATA,
    port: LUMBRIN_PORT,
    /** Folders below which handovers may be written, unless Settings say otherwise. */
    allowedRoots: LUMBRIN_ROOTS.split(delimiter).filter(Boolean),
    /** Shared by the server and its readers, made anew at every start. */
    readerSecret: LUMBRIN_READER_SECRET,
    /** Folders searched for backups in the demo, beside the usual ones. */
    searchFolders: LUMBRIN_DEMO_SOURCES ? [LUMBRIN_DEMO_SOURCES] : [],
  }
}
