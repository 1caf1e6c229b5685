import type { Sighting } from '@lumbrin/core/categories/types'
import { Random } from '@lumbrin/standins/random'
import type { APIContext } from 'astro'
import { expect, inject, it, onTestFinished } from 'vitest'
import { database } from '../../apps/workbench/src/database/connection.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { hasOf, nameIds, namesOf } from '../../apps/workbench/src/database/names.js'
import { addMatching } from '../../apps/workbench/src/database/tray.js'
import { filterIn } from '../../apps/workbench/src/domain/filter.js'
import type { FindingLine } from '../../apps/workbench/src/domain/finding.js'
import { isLastPage } from '../../apps/workbench/src/domain/findings-query.js'
import type { FindingId, JobId } from '../../apps/workbench/src/domain/ids.js'
import { GET as CONVERSATIONS } from '../../apps/workbench/src/pages/api/jobs/[job]/conversations.js'
import { GET as DAYS } from '../../apps/workbench/src/pages/api/jobs/[job]/days.js'
import { GET as FACETS } from '../../apps/workbench/src/pages/api/jobs/[job]/facets.js'
import { GET } from '../../apps/workbench/src/pages/api/jobs/[job]/findings.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource } from '../setup/made-source.js'
import { type Workbench, workbenchWith } from './workbench.js'

const STANDINGS = ['kept', 'earlier', 'rebuilt', 'partial'] as const
const WORDS = ['lantern', 'stage', 'curtain', 'violin', 'wagon']
const TALKS = ['Tour crew', 'Bram', 'Workshop 50%_']
const DAY_MS = 86_400_000
const START = Date.UTC(2026, 0, 1)
const COUNT = 900

interface Made {
  id: FindingId
  standing: (typeof STANDINGS)[number]
  when: number | null
  title: string
  words: string[]
  talk: number
  sender: string
  attached: boolean
  score: number
  bytes: number
}

async function fill({ db, jobId }: Workbench): Promise<Made[]> {
  const random = new Random(77)
  const made = Array.from(
    { length: COUNT },
    (_, i): Made => ({
      id: 0 as FindingId,
      standing: random.pick(STANDINGS),
      // Many at the same moment, some at none.
      when: random.chance(0.1) ? null : START + random.int(0, 59) * (DAY_MS / 2),
      title: `title ${String(random.int(0, 200)).padStart(3, '0')}`,
      words: [random.pick(WORDS), random.pick(WORDS), `number${i}`],
      talk: random.int(0, 2),
      sender: random.pick(['+12025550101', 'bram@example.com', 'pia@example.com']),
      attached: random.chance(0.2),
      score: random.int(0, 100),
      bytes: random.int(0, 40),
    }),
  )
  await db('findings').insert(
    made.map((one, i) => ({
      job_id: jobId,
      category: 'messages',
      identity: `${i}`,
      standing: one.standing,
      happened_at: one.when === null ? null : new Date(one.when),
      title: one.title,
      text: one.words.join(' '),
      conversation: `talk-${one.talk}`,
      conversation_title: TALKS[one.talk] ?? '',
      match_score: one.score,
      bytes: one.bytes,
    })),
  )
  const ids: number[] = await db('findings').orderBy('id').pluck('id')
  for (const [i, one] of made.entries()) one.id = asId(ids[i])
  const { id: source } = await insertMadeSource(db, jobId, '/made', new Date(START))
  await db('sightings').insert(
    made.map((one, i) => ({
      ...{ finding_id: one.id, source_id: source, job_id: jobId, category: 'messages', pass: 'live', ordinal: i },
      ...{ condition: 'live', title: one.title, origin: '{}', missing: '[]', confidence: 1 },
      fields: JSON.stringify({ sender: one.sender, attachments: one.attached ? [{ name: 'a.jpg' }] : [] }),
    })),
  )
  await db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
  await nameAll(db, jobId, made)
  return made
}

/** The names and marks that a search asks for, as storing a batch keeps them. */
async function nameAll(db: Workbench['db'], jobId: JobId, made: Made[]): Promise<void> {
  const sightings = made.map(
    (one) =>
      ({
        title: one.title,
        content: null,
        fields: {
          sender: one.sender,
          conversation: `talk-${one.talk}`,
          conversationTitle: TALKS[one.talk] as string,
          attachments: one.attached ? [{ name: 'a.jpg', path: null }] : [],
        },
      }) as unknown as Sighting,
  )
  const names = await nameIds(db, jobId, sightings.map(namesOf))
  for (const [i, one] of made.entries())
    await db('findings')
      .where({ id: one.id })
      .update({ ...names[i], has: hasOf(sightings[i] as Sighting) })
}

const day = (text: string) => Date.parse(text)

/** One part of an address, and what it asks of a finding. */
type Part = [name: string, value: string, asks: (one: Made) => boolean]

function someParts(random: Random): Part[] {
  const standing = random.pick(STANDINGS)
  const word = random.pick(WORDS)
  const other = random.pick(WORDS)
  const date = `2026-01-${String(random.int(1, 28)).padStart(2, '0')}`
  const talk = random.int(0, 2)
  const searches: [string, (one: Made) => boolean][] = [
    [word.slice(0, 4), (one) => one.words.includes(word)],
    [`${word} ${other}`, (one) => one.words.includes(word) && one.words.includes(other)],
    [`"${word} ${other}"`, (one) => one.words[0] === word && one.words[1] === other],
    [`standing:${standing} ${word}`, (one) => one.standing === standing && one.words.includes(word)],
    [`before:${date}`, (one) => one.when !== null && one.when < day(date)],
    [`after:${date}`, (one) => one.when !== null && one.when >= day(date)],
    [`in:"${TALKS[talk]}"`, (one) => one.talk === talk],
    ['from:BRAM@ has:attachment', (one) => one.sender.startsWith('bram@') && one.attached],
    ['-from:bram -has:attachment', (one) => !one.sender.startsWith('bram@') && !one.attached],
    [`${word} -${other}`, (one) => one.words.includes(word) && !one.words.includes(other)],
    ['standing:lost after:2026', (one) => one.standing !== 'kept' && one.when !== null],
    ['before:2026-01', () => false],
    ['before:never', () => true],
    ['%', () => false],
    ["' OR 1=1 --", () => false],
  ]
  const [words, holds] = random.pick(searches)
  const parts: Part[] = [
    ['words', words, holds],
    ['standings', `${standing},kept`, (one) => one.standing === standing || one.standing === 'kept'],
    ['conversation', `talk-${talk}`, (one) => one.talk === talk],
    ['fromDay', date, (one) => one.when !== null && one.when >= day(date)],
    ['toDay', date, (one) => one.when !== null && one.when < day(date) + DAY_MS],
  ]
  return parts.filter(() => random.chance(0.4))
}

// Without a date: last from the newest, first from the oldest.
const time = (one: Made) => one.when ?? Number.NEGATIVE_INFINITY
const up = (a: number | string, b: number | string) => (a < b ? -1 : a > b ? 1 : 0)
const ORDERS: Record<string, (a: Made, b: Made) => number> = {
  newest: (a, b) => up(time(b), time(a)) || b.id - a.id,
  oldest: (a, b) => up(time(a), time(b)) || a.id - b.id,
  match: (a, b) => b.score - a.score || up(time(b), time(a)) || b.id - a.id,
  title: (a, b) => up(a.title, b.title) || a.id - b.id,
  largest: (a, b) => b.bytes - a.bytes || b.id - a.id,
}

// One database for all: the endpoint's own pool is opened once in a process.
it('the endpoint of findings gives what a plain filter and sort give, page after page', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
  onTestFinished(() => database().destroy())
  const made = await fill(bench)
  const ask = async (parameters: Record<string, string>, endpoint = GET) => {
    const url = new URL(`http://127.0.0.1/?${new URLSearchParams({ category: 'messages', ...parameters })}`)
    const response = await endpoint({
      params: { job: String(bench.jobId) },
      url,
      request: new Request(url),
    } as unknown as APIContext)
    return { status: response.status, answer: await response.json() }
  }
  const random = new Random(9)
  const sizes = new Set<number>()
  for (let round = 0; round < 80; round++) {
    const parts = someParts(random)
    const order = random.pick(Object.keys(ORDERS))
    const parameters = Object.fromEntries(parts.map(([name, value]) => [name, value]))
    const found: number[] = []
    for (let after: Record<string, string> = {}; ; ) {
      const { answer } = (await ask({ ...parameters, order, ...after })) as { answer: FindingLine[] }
      found.push(...answer.map((line) => line.id))
      const last = answer.at(-1)
      if (!last || isLastPage(answer.length, parameters.words ?? '')) break
      after = {
        afterId: `${last.id}`,
        afterScore: `${last.matchScore}`,
        afterTitle: last.title,
        afterBytes: `${last.bytes}`,
      }
      if (last.when) after.afterWhen = last.when
    }
    const expected = made.filter((one) => parts.every(([, , asks]) => asks(one))).sort(ORDERS[order])
    const what = JSON.stringify({ order, ...parameters })
    expect({ what, found }).toEqual({ what, found: expected.map((one) => one.id) })
    sizes.add(expected.length)
    if (round % 10 === 0) {
      const filter = filterIn(`${new URLSearchParams({ category: 'messages', ...parameters })}`, 'UTC')
      const { count } = await addMatching(bench.db, bench.jobId, filter)
      expect(count).toBeLessThanOrEqual(expected.length)
      const { answer } = (await ask({ ...parameters, order })) as { answer: FindingLine[] }
      expect(answer.every((line) => line.inTray)).toBe(true)
    }
  }
  // Neither all nothing nor all the same.
  expect(sizes.size).toBeGreaterThan(20)
  expect(Math.max(...sizes)).toBeGreaterThan(400)

  const facets = (await ask({ words: 'lantern' }, FACETS)).answer
  for (const standing of STANDINGS)
    expect(facets.messages[standing]).toBe(
      made.filter((one) => one.standing === standing && one.words.includes('lantern')).length,
    )
  const conversations = (await ask({ standings: 'rebuilt,kept' }, CONVERSATIONS)).answer
  for (const { key, title, total, lost } of conversations) {
    const those = made.filter(
      (one) => `talk-${one.talk}` === key && (one.standing === 'rebuilt' || one.standing === 'kept'),
    )
    const rebuilt = those.filter((one) => one.standing === 'rebuilt')
    expect({ title, total, lost }).toEqual({
      title: TALKS[Number(key.slice(5))],
      total: those.length,
      lost: rebuilt.length,
    })
  }
  const wrong = ['order=sideways', 'fromDay=2026-13-01', 'standings=gone', 'category=none', 'afterId=-1']
  for (const text of wrong) {
    const [name = '', value = ''] = text.split('=')
    expect({ text, status: (await ask({ [name]: value })).status }).toEqual({ text, status: 400 })
  }
  expect((await ask({ month: '2026-5' }, DAYS)).status).toBe(400)
})
