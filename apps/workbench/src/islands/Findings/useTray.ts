import { type InfiniteData, useMutation, useQueryClient } from '@tanstack/react-query'
import { sendJson } from '../../components/api'
import type { FindingLine } from '../../database/queries'

type Pages = InfiniteData<FindingLine[]>

/** Puts findings into the tray and takes them out; what is on screen follows at once, and falls back if it fails. */
export function useTray(jobId: number) {
  const client = useQueryClient()
  const mark = (ids: readonly number[], inTray: boolean) =>
    client.setQueriesData<Pages>(
      { queryKey: ['findings', jobId] },
      (data) =>
        data && {
          ...data,
          pages: data.pages.map((page) => page.map((line) => (ids.includes(line.id) ? { ...line, inTray } : line))),
        },
    )
  return useMutation({
    mutationFn: ({ ids, inTray }: { ids: number[]; inTray: boolean }) =>
      sendJson('POST', `/api/jobs/${jobId}/tray`, inTray ? { add: ids } : { remove: ids }),
    onMutate: ({ ids, inTray }) => mark(ids, inTray),
    onError: (_, { ids, inTray }) => mark(ids, !inTray),
  })
}
