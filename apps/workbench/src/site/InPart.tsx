import type { PartStarts } from '@lumbrin/core/export/bag-types'
import { usePackageParts } from './useParts'

/** In which part of a package a file of content came, by its place; null: the package is not in parts. */
export function partOf(starts: PartStarts, place: string): number | null {
  if (starts.length === 0) return null
  // Content lies in the parts in the order of its paths, by UTF-16 code units: the order of "<=" here.
  return (
    1 +
    Math.max(
      0,
      starts.findLastIndex((start) => start !== null && start <= place),
    )
  )
}

/** "part 2 of 3", of a file's place; null: the package is not in parts. */
export function usePartWords(place: string): string | null {
  const starts = usePackageParts()
  const number = partOf(starts, place)
  return number === null ? null : `part ${number} of ${starts.length}`
}

/** Says behind a file's name in which part of the package it came. */
export function InPart({ place }: { place: string }) {
  const words = usePartWords(place)
  return words === null ? null : <span className="whitespace-nowrap text-soft"> (in {words})</span>
}
