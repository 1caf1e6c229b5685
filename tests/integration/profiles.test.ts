import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { BUILT_IN_PROFILES } from '@lumbrin/core/categories/chats/built-in'
import { expect, inject, it } from 'vitest'
import { ownProfiles, removeProfile, saveProfile, tryProfile } from '../../apps/workbench/src/services/profiles.js'
import { demoBackup, tool } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const PUPPETRY = BUILT_IN_PROFILES.find(({ id }) => id === 'puppetry-chat')

it('a profile is tried against a source, and reads what SQLite’s shell reads', async () => {
  const { db, sourceId } = await workbenchWith(inject('databaseUrl'), folder)
  const trial = await tryProfile(db, sourceId, JSON.stringify(PUPPETRY))
  const [domain, path] = [
    trial.store.slice(0, trial.store.indexOf('/')),
    trial.store.slice(trial.store.indexOf('/') + 1),
  ]
  const id = tool(
    'sqlite3',
    join(folder, 'Manifest.db'),
    `SELECT fileID FROM Files WHERE domain = '${domain}' AND relativePath = '${path}'`,
  ).trim()
  const { table, text } = PUPPETRY?.messages ?? { table: '', text: '' }
  const stored = join(folder, id.slice(0, 2), id)
  expect(trial.live).toBe(Number(tool('sqlite3', stored, `SELECT COUNT(*) FROM ${table}`)))
  const texts = JSON.parse(tool('sqlite3', '-json', stored, `SELECT ${text} AS text FROM ${table}`))
  const known = new Set(texts.map((row: { text: string | null }) => row.text))
  const shown = trial.messages.filter(({ condition, text }) => condition === 'live' && text !== null)
  expect(shown.length).toBeGreaterThan(0)
  for (const message of shown) expect(known, message.text ?? '').toContain(message.text)
  // Nothing of a trial is kept.
  expect(await db('sightings').count({ count: '*' })).toEqual([{ count: 0 }])
})

it('a profile that is wrong, or of no database here, says what is wrong', async () => {
  const { db, sourceId } = await workbenchWith(inject('databaseUrl'), folder)
  const elsewhere = { ...PUPPETRY, stores: [{ domain: 'AppDomain-nobody.here', path: 'no.db' }] }
  await expect(tryProfile(db, sourceId, JSON.stringify(elsewhere))).rejects.toThrow('AppDomain-nobody.here/no.db')
  await expect(tryProfile(db, sourceId, '{"version": 2}')).rejects.toThrow('This is no valid profile.')
  await expect(tryProfile(db, sourceId, 'no JSON')).rejects.toThrow('This is no valid profile.')
})

it('own profiles are saved, listed and removed, and one that is damaged hides no other', async () => {
  await workbenchWith(inject('databaseUrl'), folder)
  expect(await ownProfiles()).toEqual({ profiles: [], problems: [] })
  await expect(saveProfile(JSON.stringify(PUPPETRY))).rejects.toThrow('ships with the product')
  const mine = { ...PUPPETRY, id: 'mine', name: 'Mine' }
  await saveProfile(JSON.stringify(mine))
  await saveProfile(JSON.stringify({ ...mine, name: 'Mine again' }))
  const kept = join(process.env.LUMBRIN_DATA ?? '', 'profiles')
  writeFileSync(join(kept, 'damaged.json'), '{')
  const { profiles, problems } = await ownProfiles()
  expect(profiles.map(({ id, name }) => [id, name])).toEqual([['mine', 'Mine again']])
  expect(problems).toEqual([expect.stringMatching(/^damaged\.json: /)])
  expect(JSON.parse(readFileSync(join(kept, 'mine.json'), 'utf8')).name).toBe('Mine again')
  for (const bad of ['../mine', 'Mine', '']) await expect(removeProfile(bad)).rejects.toThrow('no such profile')
  await removeProfile('mine')
  expect((await ownProfiles()).profiles).toEqual([])
})
