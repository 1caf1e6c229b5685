import { BackupBuilder } from '@lumbrin/standins/backup/builder'

/**
 * Makes a backup that lists many files and holds none: `node --import tsx bench/large-backup.ts FOLDER ENTRIES`. A
 * process of its own, so that its memory is not taken for that of what opens the backup.
 */
const [folder = '', entries = '0'] = process.argv.slice(2)
const device = {
  name: 'large',
  productType: 'x',
  osVersion: '17.0',
  udid: 'e'.repeat(40),
  takenAt: new Date('2026-01-01'),
}
const builder = new BackupBuilder(folder, device)
for (let i = 0; i < Number(entries); i++)
  builder.addMissing('AppDomain-example.large', `Documents/${i % 100}/file ${i}.dat`, i)
await builder.finish()
