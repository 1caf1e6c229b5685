import { homedir } from 'node:os'
import { delimiter, join } from 'node:path'
import { z } from 'zod'

const schema = z.object({
  LUMBRIN_DATABASE_URL: z.string().min(1),
  LUMBRIN_DATA: z.string().default(join(homedir(), '.local/share/lumbrin')),
  LUMBRIN_PORT: z.coerce.number().int().min(0).max(65535).default(4680),
  LUMBRIN_ROOTS: z.string().default(homedir()),
  LUMBRIN_DEMO_SOURCES: z.string().optional(),
  LUMBRIN_RECOVERY: z.url().optional(),
  LUMBRIN_CLOUD: z.url().optional(),
  LUMBRIN_MEDIA_PROGRAM: z.string().optional(),
  LUMBRIN_SITE: z.string().optional(),
  LUMBRIN_READER_SECRET: z.string().min(32).optional(),
})

/** Settings of the process. @throws ZodError that names the variable which is wrong */
export function readConfig(environment: NodeJS.ProcessEnv = process.env) {
  const settings = schema.parse(environment)
  return {
    databaseUrl: settings.LUMBRIN_DATABASE_URL,
    dataFolder: settings.LUMBRIN_DATA,
    port: settings.LUMBRIN_PORT,
    /** Folders below which handovers may be written, unless Settings say otherwise. */
    allowedRoots: settings.LUMBRIN_ROOTS.split(delimiter).filter(Boolean),
    /** Shared by the server and its readers, made anew at every start. */
    readerSecret: settings.LUMBRIN_READER_SECRET,
    /** Folders searched for backups in the demo, beside the usual ones. */
    searchFolders: settings.LUMBRIN_DEMO_SOURCES ? [settings.LUMBRIN_DEMO_SOURCES] : [],
    /** Where devices that do not start are reached; undefined: nowhere. */
    recoveryChannel: settings.LUMBRIN_RECOVERY,
    /** The program that decodes pictures; undefined: it is run from its source. */
    mediaProgram: settings.LUMBRIN_MEDIA_PROGRAM,
    /** The folder with the built pages of packages; undefined: packages have none. */
    siteFolder: settings.LUMBRIN_SITE,
    /** The cloud service; undefined: there is none to sign in to. */
    cloudService: settings.LUMBRIN_CLOUD,
  }
}
