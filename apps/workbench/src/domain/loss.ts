import { dayIn } from '@lumbrin/core/io/time-zone'

/** When the brief says that things were lost, as days; null: not said. */
export interface Loss {
  from: string | null
  to: string | null
}

/** How a source's day in a zone stands to the loss: one from before it may still hold what is gone. */
export function stance(takenAt: string | null, { from, to }: Loss, zone: string): string {
  const day = takenAt && dayIn(new Date(takenAt), zone)
  if (!day || (!from && !to)) return ''
  if (from && day < from) return ', before the loss'
  if (to && day > to) return ', after the loss'
  return from && to ? ', within the loss' : ''
}
