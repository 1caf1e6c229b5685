import type { PartStarts } from '@lumbrin/core/export/bag-types'
import {
  ITEMS_A_PART,
  type SiteConversation,
  type SiteDays,
  type SiteItem,
  type SitePerson,
  type SitePlace,
  type SiteStart,
} from '@lumbrin/core/export/site/shapes'
import { type QueryClient, queryOptions, useQuery } from '@tanstack/react-query'
import { createContext, useContext } from 'react'
import { loadPart } from './parts'

const FOREVER = Number.POSITIVE_INFINITY

/** How a part is asked for; what it holds never changes. */
export const partOptions = <Of>(name: string) =>
  queryOptions({ queryKey: ['part', name], queryFn: () => loadPart(name) as Promise<Of>, staleTime: FOREVER })

const Start = createContext<SiteStart | undefined>(undefined)
export const StartProvider = Start.Provider

const PackageParts = createContext<PartStarts>([])
export const PackagePartsProvider = PackageParts.Provider

/** Where the content of each part of the package begins; none: it is not in parts. */
export const usePackageParts = () => useContext(PackageParts)

/** What the first page knows. */
export function useStart(): SiteStart {
  const start = useContext(Start)
  if (!start) throw new Error('there is no start around this view')
  return start
}

export const useConversations = () => useQuery(partOptions<SiteConversation[]>('conversations'))
export const usePeople = () => useQuery(partOptions<SitePerson[]>('people'))
export const usePlaces = () => useQuery(partOptions<SitePlace[]>('places'))
export const useDays = (kind: string) => useQuery(partOptions<SiteDays>(`days-${kind}`))
export const useNumbersOf = ({ part, at }: SitePerson) =>
  useQuery({ ...partOptions<number[][]>(`people-${part}`), select: (lists) => lists[at] })

const itemsPart = (number: number) => partOptions<SiteItem[]>(`items-${Math.floor(number / ITEMS_A_PART)}`)

/** An item by its number; undefined until its part is there. */
export const useItem = (number: number) =>
  useQuery({ ...itemsPart(number), select: (items) => items[number % ITEMS_A_PART] })

/** The same where no view asks. */
export async function itemOf(client: QueryClient, number: number): Promise<SiteItem | undefined> {
  return (await client.fetchQuery(itemsPart(number)))[number % ITEMS_A_PART]
}
