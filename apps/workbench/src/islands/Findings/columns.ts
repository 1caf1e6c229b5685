import { valueOfField } from '@lumbrin/core/categories/field-words'
import { type CategoryId, definitionOf } from '@lumbrin/core/categories/registry'
import { binTime } from '@lumbrin/core/findings/bin-days'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { useEffect, useState } from 'react'
import type { FindingLine } from '../../domain/finding'

const SHOWN_AT_FIRST = 1

/** Fields that a list can show beside date, title and text; the first ones stand there at first. */
export const columnsOffered = (category: CategoryId): readonly string[] => definitionOf(category).columns

const keyOf = (category: CategoryId) => `columns ${category}`

/** The columns that a list shows; they are remembered by category, in this browser. */
export function useColumns(category: CategoryId): [string[], (columns: string[]) => void] {
  const offered = columnsOffered(category)
  const [columns, setColumns] = useState<readonly string[]>(offered.slice(0, SHOWN_AT_FIRST))
  useEffect(() => {
    const saved = localStorage.getItem(keyOf(category))?.split(',')
    setColumns(columnsOffered(category).filter((name, i) => (saved ? saved.includes(name) : i < SHOWN_AT_FIRST)))
  }, [category])
  return [
    columns.filter((name) => offered.includes(name)),
    (chosen) => {
      localStorage.setItem(keyOf(category), chosen.join(','))
      setColumns(chosen)
    },
  ]
}

/** Of what is in a bin: how long still, at this moment. */
function daysLeftToday(binnedAt: string | null, zone: string): string {
  const bin = binTime(binnedAt === null ? null : new Date(binnedAt), new Date())
  if (bin === null) return ''
  return bin.state === 'left' ? String(bin.days) : `expired ${dayIn(bin.since, zone)}`
}

/** A field of a finding as it stands in a cell; `zone`: by whose clocks times are shown. */
export function cellOf({ fields, binnedAt }: FindingLine, name: string, zone: string): string {
  if (name === 'daysLeft') return daysLeftToday(binnedAt, zone)
  const value = fields[name] ?? null
  return value === null ? '' : valueOfField(name, value, zone)
}
