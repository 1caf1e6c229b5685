import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { safeName } from '@lumbrin/core/export/names'
import { readConfig } from '../config.js'
import type { JobId } from '../domain/ids.js'

/** Where that is kept which is fetched for a job from a device or a cloud account. */
export const fetchedFolder = (jobId: JobId, name: string): string =>
  join(readConfig().dataFolder, 'fetched', `job-${jobId}`, safeName(name))

/** Every folder of ours in which content of a job lies: fetched, brought in, packed. */
export async function foldersOf(jobId: JobId): Promise<{ kind: string; path: string }[]> {
  const { dataFolder } = readConfig()
  const packages = join(dataFolder, 'packages')
  const packed = (await readdir(packages).catch(() => [])).filter((name) => isOfJob(name, jobId))
  return [
    { kind: 'fetched from devices and the cloud', path: join(dataFolder, 'fetched', `job-${jobId}`) },
    { kind: 'brought in through the browser', path: join(dataFolder, 'brought', `job-${jobId}`) },
    ...packed.map((name) => ({ kind: 'packages for download', path: join(packages, name) })),
  ]
}

/** A package, or one that is being built, of exactly this job. */
const isOfJob = (name: string, jobId: JobId) => new RegExp(`^\\.?job-${jobId}-`).test(name)
