import { messageOf, SourceError } from '@lumbrin/core/io/errors'
import { UsageError } from './options.js'

/** Exit codes of the command line: part of its contract. */
const EXIT = { done: 0, failed: 1, usage: 2, notReadable: 3, password: 4 } as const

type Command = (words: string[]) => Promise<void>

/** Each is loaded when it is asked for: what writes packages takes a second. */
const COMMANDS: Record<string, () => Promise<Command>> = {
  sources: async () => (await import('./commands/sources.js')).sourcesCommand,
  read: async () => (await import('./commands/read.js')).readCommand,
  residue: async () => (await import('./commands/residue.js')).residueCommand,
  handover: async () => (await import('./commands/handover.js')).handoverCommand,
  copy: async () => (await import('./commands/copy.js')).copyCommand,
  copies: async () => (await import('./commands/copies.js')).copiesCommand,
  check: async () => (await import('./commands/check.js')).checkCommand,
}

const USAGE = `Usage:
  lumbrin sources [FOLDER…]
  lumbrin read SOURCE [--password-file F] [--only CATEGORIES] [--passes live,residue,carving] [--out FILE]
  lumbrin residue DATABASE [--wal F] [--journal F] [--out FILE]
  lumbrin handover SOURCE --to FOLDER [--password-file F] [--only CATEGORIES] [--condition CONDITIONS] [--match TEXT]
  lumbrin copy SOURCE --to PLACE [--password-file F] [--thorough]
  lumbrin copies PLACE
  lumbrin check PLACE-OR-COPY
`

async function main([name, ...words]: string[]): Promise<number> {
  const load = name !== undefined && Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined
  if (!load) {
    process.stderr.write(name ? `lumbrin: there is no command "${name}".\n${USAGE}` : USAGE)
    return name === '--help' ? EXIT.done : EXIT.usage
  }
  try {
    const command = await load()
    await command(words)
    return EXIT.done
  } catch (thrown) {
    process.stderr.write(`lumbrin: ${messageOf(thrown)}\n`)
    if (thrown instanceof UsageError) process.stderr.write(USAGE)
    return codeOf(thrown)
  }
}

function codeOf(thrown: unknown): number {
  if (thrown instanceof UsageError) return EXIT.usage
  if (!(thrown instanceof SourceError)) return EXIT.failed
  return thrown.code === 'password-needed' || thrown.code === 'password-wrong' ? EXIT.password : EXIT.notReadable
}

// A reader that closes the pipe early ("| head") is not a failure.
process.stdout.on('error', (error: NodeJS.ErrnoException) =>
  process.exit(error.code === 'EPIPE' ? EXIT.done : EXIT.failed),
)
process.exitCode = await main(process.argv.slice(2))
