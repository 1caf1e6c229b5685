import { type InfiniteData, useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ask } from '../../api/client'
import type { BodyGiven } from '../../api/contracts'
import type { FindingLine } from '../../domain/finding'
import { type FindingsQuery, toAddress } from '../../domain/findings-query'
import type { TrayChange } from '../../domain/tray'

type Pages = InfiniteData<FindingLine[]>

const FINDING = ['finding']

/** Findings by their ids, all that a view shows, or all with a person; or an earlier change is undone. */
type Change =
  | { ids: number[]; inTray: boolean }
  | { matching: FindingsQuery; inTray: boolean }
  | { person: PersonWish; inTray: true }
  | { undo: string }

type PersonWish = Extract<BodyGiven<'POST /api/jobs/{job}/tray'>, { addPerson: unknown }>['addPerson']

/** A change of the tray, while it can be undone. */
export interface UndoneLater extends TrayChange {
  inTray: boolean
  /** It was more than the one finding that is looked at. */
  many: boolean
}

/** Puts findings into the tray and takes them out; what is on screen follows at once, and falls back if it fails. */
export function useTray(jobId: number) {
  const client = useQueryClient()
  // The last one comes first; each can be undone once those after it are.
  const [changes, setChanges] = useState<UndoneLater[]>([])
  const [told, setTold] = useState<UndoneLater | null>(null)
  const queryKey = ['findings', jobId]
  const mark = (ids: readonly number[], inTray: boolean) => {
    const marked = (line: FindingLine) => (ids.includes(line.id) ? { ...line, inTray } : line)
    client.setQueriesData<Pages>(
      { queryKey },
      (data) => data && { ...data, pages: data.pages.map((page) => page.map(marked)) },
    )
    client.setQueriesData<FindingLine>({ queryKey: FINDING }, (data) => data && marked(data))
  }
  const mutation = useMutation({
    mutationFn: (change: Change) => ask('POST /api/jobs/{job}/tray', { path: { job: jobId }, body: bodyOf(change) }),
    onMutate: async (change) => {
      if (!('ids' in change)) return { overtaken: [queryKey, FINDING] }
      // What is on its way tells how things were when it was asked for; a page brings along the pages before it.
      const overtaken = [queryKey, FINDING].filter((key) => client.isFetching({ queryKey: key }) > 0)
      await client.cancelQueries({ queryKey })
      mark(change.ids, change.inTray)
      return { overtaken }
    },
    onSuccess: (answer, change) => {
      if ('undo' in change) {
        setTold(null)
        setChanges((now) => now.filter(({ step }) => step !== change.undo))
      } else if (answer) {
        const made = { ...answer, inTray: change.inTray, many: !('ids' in change) || change.ids.length > 1 }
        setTold(made)
        if (made.count > 0) setChanges((now) => [made, ...now])
      }
    },
    onError: (_, change) => 'ids' in change && mark(change.ids, !change.inTray),
    onSettled: async (_, __, ___, context) => {
      for (const key of context?.overtaken ?? []) {
        // One that has brought nothing yet would be waited for instead of being asked again.
        await client.cancelQueries({ queryKey: key })
        await client.invalidateQueries({ queryKey: key })
      }
    },
  })
  return {
    last: told,
    failed: mutation.error?.message ?? null,
    change: (lines: readonly FindingLine[], inTray: boolean) =>
      mutation.mutate({ ids: lines.map((line) => line.id), inTray }),
    all: (matching: FindingsQuery, inTray = true) => mutation.mutate({ matching, inTray }),
    person: (person: PersonWish) => mutation.mutate({ person, inTray: true }),
    undo: () => changes[0] && mutation.mutate({ undo: changes[0].step }),
    forget: () => setTold(null),
  }
}

export type Tray = ReturnType<typeof useTray>

function bodyOf(change: Change): BodyGiven<'POST /api/jobs/{job}/tray'> {
  if ('undo' in change) return change
  if ('ids' in change) return change.inTray ? { add: change.ids } : { remove: change.ids }
  if ('person' in change) return { addPerson: change.person }
  const address = toAddress(change.matching).slice(1)
  return change.inTray ? { addMatching: address } : { removeMatching: address }
}
