import type { CategoryId } from '@lumbrin/core/categories/registry'
import { type BackupFit, fitsOf } from '@lumbrin/core/findings/backup-fit'
import { useMemo } from 'react'
import { useTimes } from '../../components/times'
import type { Loss } from '../../domain/loss'
import type { JobSources } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import type { Found } from './useBackupSearch'

/** What the brief of a job says of what is sought. */
export interface Sought {
  loss: Loss
  wanted: CategoryId[]
  /** The device, in the brief's words. */
  named: string
}

/** How each backup that was found fits the job, by its path. */
export function useFits(
  found: readonly Found[],
  { loss, wanted, named }: Sought,
  { sources, devices }: Wire<JobSources>,
): Map<string, BackupFit> {
  const { zone } = useTimes()
  return useMemo(() => {
    const ofBrief = devices.find(({ role }) => role === 'brief')?.sourceIds ?? []
    const ids = sources.flatMap(({ id, info }) => (ofBrief.includes(id) && info.uniqueId ? [info.uniqueId] : []))
    return fitsOf(found, { ...loss, zone, devices: ids, named, wanted, added: sources.map(({ path }) => path) })
  }, [found, loss, wanted, named, sources, devices, zone])
}
