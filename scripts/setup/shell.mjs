import { spawn } from 'node:child_process'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The checkout's top folder. */
export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..', '..')

/** A line to the person at the terminal. */
export const say = (text) => process.stderr.write(`lumbrin: ${text}\n`)

/** Ends set-up with a message that says what happened and what to do. */
export class SetupError extends Error {}

/** Runs a program to its end. Its output is shown only when it fails, if `quiet`. */
export function run(command, args, { cwd = ROOT, env = {}, quiet = false, input } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: [input ? 'pipe' : 'ignore', quiet ? 'pipe' : 'inherit', quiet ? 'pipe' : 'inherit'],
    })
    const output = []
    child.stdout?.on('data', (chunk) => output.push(chunk))
    child.stderr?.on('data', (chunk) => output.push(chunk))
    child.stdin?.end(input)
    child.on('error', (error) => reject(new SetupError(`${command} cannot be started: ${error.message}`)))
    child.on('close', (code) => {
      const text = Buffer.concat(output).toString()
      if (code === 0) resolve(text)
      else reject(new SetupError(`"${[command, ...args].join(' ')}" failed with ${code}.\n${text.slice(-8000)}`))
    })
  })
}

/** Runs the work of a script; a failure of set-up is one clear message, and exit code 1. */
export async function main(work) {
  try {
    await work()
  } catch (error) {
    if (error instanceof SetupError) say(error.message)
    else console.error(error)
    process.exit(1)
  }
}
