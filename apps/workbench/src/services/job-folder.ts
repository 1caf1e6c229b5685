import { join } from 'node:path'
import { safeName } from '@lumbrin/core/export/names'
import { readConfig } from '../config.js'

/** Where that is kept which is fetched for a job from a device or a cloud account. */
export const fetchedFolder = (jobId: number, name: string): string =>
  join(readConfig().dataFolder, 'fetched', `job-${jobId}`, safeName(name))
