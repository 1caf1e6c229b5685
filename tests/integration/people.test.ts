import { expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { knownAs } from '../../apps/workbench/src/database/people.js'
import { summariseTray } from '../../apps/workbench/src/database/tray.js'
import type { FindingLine } from '../../apps/workbench/src/domain/finding.js'
import { findingsOfPerson, personOf } from '../../apps/workbench/src/services/people.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { startRead } from '../../apps/workbench/src/services/sources.js'
import { changeTray } from '../../apps/workbench/src/services/tray.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))

it('everything with a person comes together over all kinds, page after page, and goes into the tray at once', async () => {
  const { db, jobId, sourceId } = await workbenchWith(inject('databaseUrl'), folder)
  const id = await startRead(db, sourceId, { categories: ['messages', 'contacts', 'calls', 'voicemail'] })
  await claimWork(db, 'reads', 'test:1')
  await runRead(db, id, new AbortController().signal)
  const name = 'Bram Okafor'
  const { addresses } = await knownAs(db, jobId, name)
  expect(addresses.length).toBeGreaterThan(0)

  const lines: FindingLine[] = []
  for (let last: FindingLine | undefined; ; ) {
    const behind = last ? { id: last.id, when: last.when === null ? null : new Date(last.when) } : null
    const page = await findingsOfPerson(db, jobId, name, { lost: false, category: null, behind })
    lines.push(...page)
    last = page.at(-1)
    if (page.length < 200) break
  }
  // Held against a plain walk over everything that was read.
  const called = [name, ...addresses].map((one) => one.toLowerCase())
  const rows = await db('findings')
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .where('findings.job_id', jobId)
    .select('findings.id', 'findings.category', 'findings.title', 'findings.standing', 'sightings.fields')
  const theirs = rows.filter(({ title, fields: text }) => {
    const fields = typeof text === 'string' ? JSON.parse(text) : text
    const said = [fields.senderName, fields.sender, fields.name, fields.address, fields.conversationTitle, title]
    return said.some((one) => typeof one === 'string' && called.includes(one.toLowerCase()))
  })
  expect(lines.map((line) => line.id).sort((a, b) => a - b)).toEqual(
    theirs.map((row) => Number(row.id)).sort((a, b) => a - b),
  )
  expect(new Set(lines.map((line) => line.id)).size).toBe(lines.length)
  const times = lines.map((line) => line.when ?? '')
  expect(times).toEqual([...times].sort().reverse())
  expect(new Set(lines.map((line) => line.category)).size).toBeGreaterThan(1)
  // The conversation that the demo deleted, with the messages that were sent to him.
  const lost = lines.filter((line) => line.category === 'messages' && line.standing === 'rebuilt')
  expect(lost.length).toBeGreaterThan(100)
  expect(new Set(lost.map((line) => line.fields.direction))).toEqual(new Set(['in', 'out']))

  const person = await personOf(db, jobId, name)
  const sum = (of: 'count' | 'lost' | 'inTray') => person.counts.reduce((all, one) => all + one[of], 0)
  expect(sum('count')).toBe(lines.length)
  expect(sum('lost')).toBe(theirs.filter((row) => row.standing !== 'kept').length)
  await changeTray(db, jobId, { addPerson: { name, lost: true, category: null } })
  const tray = await summariseTray(db, jobId)
  expect(tray.reduce((all, one) => all + one.count, 0)).toBe(sum('lost'))
  const after = await personOf(db, jobId, name)
  expect(after.counts.reduce((all, one) => all + one.inTray, 0)).toBe(sum('lost'))
})

it('nobody is found by part of a name, and nothing is with nobody', async () => {
  const { db, jobId } = await workbenchWith(inject('databaseUrl'), folder)
  expect((await personOf(db, jobId, 'Bram')).counts).toEqual([])
  expect(await findingsOfPerson(db, jobId, "' OR 1=1 --", { lost: false, category: null, behind: null })).toEqual([])
  await expect(personOf(db, 999_999 as never, 'Bram')).rejects.toMatchObject({ code: 'not-found' })
})
