import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { openBackup } from '@lumbrin/core/backup/open'
import { readStep } from '@lumbrin/core/categories/read'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Pass, Sighting } from '@lumbrin/core/categories/types'
import { type BackupTruth, buildDemo, FULL_DEMO } from '@lumbrin/standins/demo/build'

/** The field by which the builder names an item. */
const KEYS: Partial<Record<CategoryId, string>> = {
  contacts: 'uuid',
  calls: 'uniqueId',
  events: 'uuid',
  notes: 'uuid',
  reminders: 'uuid',
  bookmarks: 'uuid',
  'web-history': 'url',
  'open-tabs': 'uuid',
  'voice-memos': 'uuid',
  voicemail: 'remoteId',
  chats: 'guid',
  messages: 'guid',
  photos: 'uuid',
}

interface Written {
  key: string
  title: string
  fate: 'live' | 'binned' | 'deleted'
}

/** What comes back of each category, against what the demo's builders wrote: `npm run bench -- categories`. */
export async function benchCategories(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-categories-'))
  try {
    const truth = await buildDemo(join(folder, 'demo'), { ...FULL_DEMO, rounds: 20_000 })
    const backup = join(folder, 'demo', 'Backup', truth.plain.folder)
    console.log('category: live and binned right; deleted that came back, of those with the right title; not deleted')
    for (const category of Object.keys(KEYS) as CategoryId[])
      console.log(`${category}: ${await scored(backup, category, writtenOf(truth.plain, category))}`)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

function writtenOf(truth: BackupTruth, category: CategoryId): Written[] {
  if (category === 'messages') return truth.messages.map(({ guid, text, fate }) => ({ key: guid, title: text, fate }))
  if (category === 'photos') return truth.pictures.map(({ uuid, name, fate }) => ({ key: uuid, title: name, fate }))
  return truth.stores[category] ?? []
}

async function scored(backup: string, category: CategoryId, written: Written[]): Promise<string> {
  const key = KEYS[category] as string
  const talk = category === 'messages' || category === 'chats'
  const titleOf = (one: Sighting) => (talk ? (one.text ?? '') : one.title)
  const read = async (pass: Pass) => {
    const found: Sighting[] = []
    const tree = await openBackup(backup, () => {})
    for await (const sighting of readStep(tree, { category, pass }, () => {})) found.push(sighting)
    return found
  }
  const kept = new Map(written.filter((one) => one.fate !== 'deleted').map((one) => [one.key, one]))
  const lost = new Map(written.filter((one) => one.fate === 'deleted').map((one) => [one.key, one]))
  const live = await read('live')
  const right = live.filter((one) => {
    const made = kept.get(String(one.fields[key]))
    return made && made.title === titleOf(one) && made.fate === one.condition
  })
  const rebuilt = (await read('residue')).filter((one) => one.fields[key] !== null)
  const back = rebuilt.filter((one) => lost.has(String(one.fields[key])))
  const whole = back.filter((one) => lost.get(String(one.fields[key]))?.title === titleOf(one))
  return `${right.length} of ${kept.size} (${live.length} told); ${back.length} of ${lost.size}, ${whole.length} with the right title; ${rebuilt.length - back.length}`
}
