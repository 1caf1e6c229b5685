import { openBackup } from '@lumbrin/core/backup/open'
import { CloudData } from '@lumbrin/standins/cloud/data'
import { DEMO_ACCOUNT, demoAccounts } from '@lumbrin/standins/cloud/demo'
import { CloudService } from '@lumbrin/standins/cloud/service'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import type { JobId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import {
  addArchives,
  addLibrary,
  addSnapshot,
  confirmCloud,
  signInToCloud,
  signOutOfCloud,
} from '../../apps/workbench/src/services/cloud.js'
import { type Capture, isOfAccount, takenAt } from './capture.js'

/** True for what is read from the cloud. */
export const isInCloud = (capture: Capture): boolean => capture.kind === 'cloud-backup' || isOfAccount(capture)

/** The account of a life's owner in the cloud, in which a job is signed in. */
export class LivedAccount {
  private constructor(
    readonly db: Db,
    readonly jobId: JobId,
    readonly service: CloudService,
  ) {}

  /** Undefined: nothing of the life is in the cloud. */
  static async of(db: Db, jobId: JobId, captures: readonly Capture[]): Promise<LivedAccount | undefined> {
    if (!captures.some(isInCloud)) return undefined
    const data = new CloudData()
    for (const { kind, folder, id } of captures)
      if (kind === 'cloud-backup') await data.addSnapshot(folder, `life-${id}`)
      else if (kind === 'library') await data.setLibrary(await openBackup(folder, () => {}))
    const service = new CloudService(demoAccounts(), data)
    await service.listen(0)
    process.env.LUMBRIN_CLOUD = service.address
    await signInToCloud(jobId, DEMO_ACCOUNT.name, DEMO_ACCOUNT.password)
    await confirmCloud(db, jobId, DEMO_ACCOUNT.code ?? '')
    return new LivedAccount(db, jobId, service)
  }

  /** Adds what was captured into the cloud to the job; undefined: it was captured elsewhere. */
  async add(capture: Capture): Promise<SourceId | undefined> {
    const { db, jobId } = this
    if (capture.kind === 'cloud-backup') return addSnapshot(db, jobId, `life-${capture.id}`)
    if (capture.kind === 'library') return addLibrary(db, jobId)
    return capture.kind === 'archives' ? addArchives(db, jobId, takenAt(capture)) : undefined
  }

  /** Nothing answers any more; gives what ends that. */
  async cutOff(): Promise<() => Promise<void>> {
    const { port } = new URL(this.service.address)
    await this.service.close()
    return () => this.service.listen(Number(port))
  }

  async close(): Promise<void> {
    await signOutOfCloud(this.db, this.jobId)
    await this.service.close()
    delete process.env.LUMBRIN_CLOUD
  }
}
