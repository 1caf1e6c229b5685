/** When the brief says that things were lost, as days; null: not said. */
export interface Loss {
  from: string | null
  to: string | null
}

/** How a source's date stands to the loss: one from before it may still hold what is gone. */
export function stance(takenAt: string | null, { from, to }: Loss): string {
  const day = takenAt?.slice(0, 10)
  if (!day || (!from && !to)) return ''
  if (from && day < from) return ', before the loss'
  if (to && day > to) return ', after the loss'
  return from && to ? ', within the loss' : ''
}
