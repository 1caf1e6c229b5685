import type { Knex } from 'knex'

/**
 * The tray as one bit for each finding: a row holds 64 neighbours, so that half a million are put in with some thousand
 * rows. Each change is kept beside it for a while, to be undone.
 */
export async function up(db: Knex): Promise<void> {
  for (const name of ['tray_blocks', 'tray_steps'])
    await db.schema.createTable(name, (table) => {
      table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
      if (name === 'tray_steps') {
        table.uuid('step').notNullable()
        table.boolean('put').notNullable()
        table.datetime('changed_at', { precision: 3 }).notNullable()
        table.index(['job_id', 'changed_at'])
      }
      table.bigInteger('block').unsigned().notNullable()
      table.bigInteger('bits').unsigned().notNullable()
      table.primary(name === 'tray_steps' ? ['job_id', 'step', 'block'] : ['job_id', 'block'])
    })
  await db.raw(
    'INSERT INTO tray_blocks SELECT job_id, finding_id DIV 64, BIT_OR(1 << (finding_id & 63)) FROM tray GROUP BY 1, 2',
  )
  await db.schema.dropTable('tray')
}

export async function down(db: Knex): Promise<void> {
  await db.schema.createTable('tray', (table) => {
    table.integer('job_id').unsigned().notNullable().references('jobs.id').onDelete('CASCADE')
    table.bigInteger('finding_id').unsigned().notNullable()
    table.datetime('added_at', { precision: 3 }).nullable()
    table.primary(['job_id', 'finding_id'])
  })
  await db.raw(
    `INSERT INTO tray (job_id, finding_id) SELECT tray_blocks.job_id, id FROM tray_blocks
     JOIN findings ON id BETWEEN block * 64 AND block * 64 + 63 AND (bits >> (id & 63)) & 1`,
  )
  for (const table of ['tray_steps', 'tray_blocks']) await db.schema.dropTable(table)
}
