import { join } from 'node:path'
import type { Times } from '@lumbrin/standins/cloud/accounts'
import { CloudData } from '@lumbrin/standins/cloud/data'
import { demoAccounts } from '@lumbrin/standins/cloud/demo'
import { CloudService } from '@lumbrin/standins/cloud/service'
import { onTestFinished } from 'vitest'
import { demoBackup } from './fixtures.js'

/** A cloud service whose account has the demo's backup as a snapshot and its pictures as a library. */
export async function startCloud(demoFolder: string, times: Partial<Times> = {}): Promise<CloudService> {
  const data = new CloudData()
  const tree = await data.addSnapshot(demoBackup(demoFolder).folder, 'snapshot-1')
  await data.setLibrary(tree)
  data.addDeletedFile(
    'Stage measures.txt',
    'Tour',
    'Folding stage: 3.20 m wide.\n',
    new Date('2026-11-20T10:00:00Z'),
    20,
  )
  data.addDeletedFile(
    'Fox.txt',
    join('..', '..', 'Scripts'),
    'FOX: Who left the lantern burning?\n',
    new Date('2026-11-22T10:00:00Z'),
    22,
  )
  const service = new CloudService(demoAccounts(times), data)
  await service.listen(0)
  onTestFinished(() => service.close())
  return service
}
