import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildDemo } from '@lumbrin/standins/demo/build'
import { connect, type Db } from '../apps/workbench/src/database/connection.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { brief as briefSchema } from '../apps/workbench/src/domain/brief.js'
import { openJob } from '../apps/workbench/src/services/jobs.js'
import { addSource } from '../apps/workbench/src/services/sources.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { timePage, withServer } from './views.js'

const PICTURES = 400

/**
 * Scrolls a grid of very many pictures, whose tiles are made as they come into view: `npm run bench -- grid [PICTURES]`,
 * after `npm run build`. The pictures of a made-up phone, each many times.
 */
export async function benchGrid(words: string[]): Promise<void> {
  const total = Number(words[0] ?? 50_000)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-grid-'))
  const database = await startDatabase(join(folder, 'database'), 'lumbrin_bench')
  // The application's settings, where the bench itself calls into it.
  process.env.LUMBRIN_DATABASE_URL = database.url
  process.env.LUMBRIN_DATA = folder
  const db = connect(database.url)
  try {
    await migrate(db)
    const sources = join(folder, 'sources')
    const { plain } = await buildDemo(sources, {
      messages: 60,
      lostMessages: 0,
      pictures: PICTURES,
      items: 9,
      rounds: 10,
    })
    const job = await openJob(db, briefSchema.parse({ owner: 'Bench' }))
    const source = await addSource(db, job.id, join(sources, 'Backup', plain.folder))
    const live = plain.pictures.filter(({ fate }) => fate === 'live').map(({ name }) => name)
    await fill(db, job.id, source, live, total)
    await withServer(database.url, folder, (base) =>
      timePage(`grid of ${total}`, `${base}/jobs/${job.id}/findings?category=photos&layout=grid`),
    )
  } finally {
    await db.destroy()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

async function fill(db: Db, jobId: number, source: number, names: readonly string[], total: number): Promise<void> {
  const name = `ELT(1 + seq % ${names.length}, ${names.map(() => '?').join(', ')})`
  await db.raw(
    `INSERT INTO findings (job_id, category, identity, standing, happened_at, title, conversation, conversation_title, bytes, sighting_count)
     SELECT ?, 'photos', SHA2(seq, 256), 'kept', '2020-01-01' + INTERVAL seq MINUTE, ${name}, '', '', 60000, 1 FROM seq_1_to_${total}`,
    [jobId, ...names],
  )
  await db.raw(
    `INSERT INTO sightings (finding_id, source_id, job_id, category, pass, ordinal, \`condition\`, happened_at, title, fields, content, origin, missing, confidence)
     SELECT id, ?, job_id, category, 'live', id, 'live', happened_at, title, JSON_OBJECT('fileName', title),
            JSON_OBJECT('name', title, 'bytes', 60000, 'mime', 'image/jpeg', 'sha256', NULL, 'domain', 'CameraRollDomain', 'path', CONCAT('Media/DCIM/100APPLE/', title)),
            JSON_OBJECT('domain', 'd', 'path', 'p', 'table', 'ZASSET', 'rowid', id, 'place', 'live', 'page', 1, 'offset', 1), '[]', 1
     FROM findings`,
    [source],
  )
  await db.raw('UPDATE findings f JOIN sightings s ON s.finding_id = f.id SET f.best_sighting_id = s.id')
}
