import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder, warnings } from '../../../../../tests/setup/fixtures.js'
import { openBackup } from '../../backup/open.js'
import type { SourceEntry, SourceTree } from '../../backup/types.js'
import { MemorySource } from '../../io/source.js'
import { matchesPattern } from '../places.js'
import { readStep } from '../read.js'
import { BUILT_IN_PROFILES } from './built-in.js'
import { readByProfile } from './index.js'
import { parseProfile, profileSchema } from './profile.js'

const SMALL = {
  version: 1,
  id: 'small',
  name: 'Small',
  app: 'example.small',
  stores: [{ domain: 'AppDomain-*', path: 'Documents/*.db' }],
  messages: { table: 'm', text: 't', sentAt: 'at', time: 'webkit', fromMe: 'me', conversation: 'c' },
}

describe('a mapping profile', () => {
  it('is refused with the place that is wrong', () => {
    expect(() => parseProfile('{')).toThrow(/JSON/)
    expect(() => parseProfile(JSON.stringify({ ...SMALL, surprise: 1 }))).toThrow(/surprise/)
    expect(() => parseProfile(JSON.stringify({ ...SMALL, messages: { ...SMALL.messages, table: 'm; DROP' } }))).toThrow(
      /table/,
    )
    expect(() => parseProfile(JSON.stringify({ ...SMALL, attachments: { table: 'a', path: 'p' } }))).toThrow(/message/)
  })

  it('finds its databases by pattern, never beyond a folder', () => {
    expect(matchesPattern('Documents/*.db', 'Documents/talk.db')).toBe(true)
    expect(matchesPattern('Documents/*.db', 'Documents/deep/talk.db')).toBe(false)
    expect(matchesPattern('a.b', 'axb')).toBe(false)
  })

  it('reads a database that lacks half of its columns', async () => {
    const file = join(scratchFolder(), 'small.db')
    const database = new sqlite.Database(file)
    // 2020-02-29T12:34:56Z in microseconds since 1601, as published for that epoch.
    database.exec("CREATE TABLE m (t TEXT, at INTEGER); INSERT INTO m VALUES ('one', 13227453296000000), (NULL, NULL)")
    database.close()
    const entry = { domain: 'AppDomain-x', path: 'Documents/small.db', kind: 'file' } as SourceEntry
    const tree = { find: () => undefined, open: async () => new MemorySource(readFileSync(file)) }
    const context = { tree: tree as unknown as SourceTree, pass: 'live' as const, report: warnings().report }
    const found = await all(readByProfile(profileSchema.parse(SMALL), entry, context))
    expect(found.map(({ text, when, fields }) => [text, when, fields.direction, fields.conversation])).toEqual([
      ['one', '2020-02-29T12:34:56.000Z', null, null],
    ])
  })
})

describe('the built-in profiles', () => {
  it('name conversations, senders, recipients and attachments', async () => {
    const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
    const found = await all(readStep(tree, { category: 'chats', pass: 'live' }, () => {}))
    const group = found.filter(({ fields }) => fields.conversationTitle === 'Load-in 🎪')
    expect(new Set(group.map(({ fields }) => fields.app))).toEqual(new Set(['net.whatsapp.WhatsApp']))
    for (const { fields } of group) {
      if (fields.direction === 'in') expect(String(fields.senderName)).toMatch(/^(Ilse|Teodor|Leda)/)
      else expect((fields.recipients as string[]).length).toBe(3)
    }
    const own = found.filter(({ fields }) => fields.app === 'example.puppetry.chat')
    expect(own.some(({ fields }) => fields.conversationTitle === 'صوت الدمى')).toBe(true)
    expect(own.some(({ fields }) => typeof fields.replyTo === 'string')).toBe(true)
    const attached = await all(readStep(tree, { category: 'chat-attachments', pass: 'live' }, () => {}))
    expect(attached.map(({ title }) => title)).toContain('knots.txt')
    expect(attached.every(({ content }) => content !== null)).toBe(true)
    expect(found.filter(({ fields }) => fields.withdrawn).length).toBe(1)
  })

  it('give way to one of the technician’s own', async () => {
    const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
    const own = { ...(BUILT_IN_PROFILES[1] as (typeof BUILT_IN_PROFILES)[number]), id: 'mine', app: 'mine' }
    const found = await all(readStep(tree, { category: 'chats', pass: 'live' }, () => {}, { profiles: [own] }))
    expect(found.filter(({ fields }) => fields.app === 'mine').length).toBeGreaterThan(0)
    expect(found.some(({ fields }) => fields.app === 'example.puppetry.chat')).toBe(false)
  })
})
