import { type InfiniteData, useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { sendJson, wordsOf } from '../../components/api'
import type { FindingLine } from '../../database/queries'
import type { Added } from '../../database/tray'
import { type FindingsQuery, toAddress } from './query'

type Pages = InfiniteData<FindingLine[]>

/** Puts findings into the tray and takes them out; what is on screen follows at once, and falls back if it fails. */
export function useTray(jobId: number) {
  const client = useQueryClient()
  const queryKey = ['findings', jobId]
  const mark = (ids: readonly number[], inTray: boolean) =>
    client.setQueriesData<Pages>(
      { queryKey },
      (data) =>
        data && {
          ...data,
          pages: data.pages.map((page) => page.map((line) => (ids.includes(line.id) ? { ...line, inTray } : line))),
        },
    )
  return useMutation({
    mutationFn: ({ ids, inTray }: { ids: number[]; inTray: boolean }) =>
      sendJson('POST', `/api/jobs/${jobId}/tray`, inTray ? { add: ids } : { remove: ids }),
    onMutate: async ({ ids, inTray }) => {
      // A page on its way brings along the pages before it as they were when it was asked for.
      const overtaken = client.isFetching({ queryKey }) > 0
      await client.cancelQueries({ queryKey })
      mark(ids, inTray)
      return { overtaken }
    },
    onError: (_, { ids, inTray }) => mark(ids, !inTray),
    onSettled: (_, __, ___, context) => context?.overtaken && client.invalidateQueries({ queryKey }),
  })
}

/** Puts everything that a view shows into the tray, at once; and takes it out again. */
export function useTrayAll(jobId: number) {
  const client = useQueryClient()
  const [added, setAdded] = useState<Added | null>(null)
  const [failed, setFailed] = useState('')
  const perform = async (body: object): Promise<unknown> => {
    setFailed('')
    try {
      const answer = await sendJson('POST', `/api/jobs/${jobId}/tray`, body)
      await client.invalidateQueries({ queryKey: ['findings', jobId] })
      return answer
    } catch (thrown) {
      setFailed(`The tray was not changed: ${wordsOf(thrown)}`)
      return null
    }
  }
  return {
    added,
    failed,
    all: async (query: FindingsQuery) => {
      const answer = await perform({ addMatching: toAddress(query).slice(1) })
      setAdded(answer as Added | null)
    },
    undo: async () => {
      if (added) await perform({ removeAdded: added.step })
      setAdded(null)
    },
  }
}
