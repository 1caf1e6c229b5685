import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { errorInLog } from './log.js'

const SECRET = 'meet me at the old mill'

const caught = (work: () => unknown): unknown => {
  try {
    return work()
  } catch (thrown) {
    return thrown
  }
}

describe('the log', () => {
  it.each([
    ['JSON that is none', caught(() => JSON.parse(SECRET))],
    [
      'a statement with its values',
      Object.assign(new Error(`insert into sightings values ('${SECRET}')`), { code: 'ER_X', sql: SECRET }),
    ],
    [
      'a name of a file',
      Object.assign(new Error(`ENOENT: no such file, open '/home/${SECRET}'`), { code: 'ENOENT', path: SECRET }),
    ],
    ['a cause', new TypeError('x is not a function', { cause: new Error(SECRET) })],
    ['a message of several lines', new Error(`first\n    at ${SECRET}\n    at nowhere`)],
    ['no error at all', SECRET],
  ])('keeps the words of %s back', (_, thrown) => {
    expect(JSON.stringify(errorInLog(thrown))).not.toContain('mill')
  })

  it('says what and where: class, code, places, and the message of a mistake in code', () => {
    const thrown = caught(() => (undefined as unknown as { length: number }).length)
    expect(errorInLog(thrown)).toMatchObject({
      type: 'TypeError',
      message: expect.stringContaining("reading 'length'"),
      stack: expect.arrayContaining([expect.stringContaining('log.test.ts')]),
    })
    expect(errorInLog(Object.assign(new Error(SECRET), { code: 'EIO' }))).toMatchObject({ type: 'Error', code: 'EIO' })
  })

  it('is JSON Lines on standard error, from the level that is asked for', () => {
    const code = `import { log } from './log.js'; log.debug('fine'); log.warn({ err: new Error('${SECRET}') }, 'settling failed')`
    const words = ['--import', 'tsx', '--input-type=module', '--eval', code]
    const run = (level: string) =>
      execFileSync('sh', ['-c', `"$0" "$@" 2>&1`, process.execPath, ...words], {
        cwd: import.meta.dirname,
        encoding: 'utf8',
        env: { ...process.env, LUMBRIN_LOG: level, NODE_PATH: join(import.meta.dirname, '../../../node_modules') },
      })
    const [line = '', ...others] = run('warn').trim().split('\n')
    expect(others).toEqual([])
    expect(JSON.parse(line)).toMatchObject({ level: 40, msg: 'settling failed', err: { type: 'Error' } })
    expect(line).not.toContain('mill')
    expect(run('debug').trim().split('\n')).toHaveLength(2)
  })
})
