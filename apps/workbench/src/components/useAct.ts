import { useMutation, useQueryClient } from '@tanstack/react-query'

/**
 * Performs what changes something; afterwards all that the page shows is asked for again. `failed`: words for the user on
 * what went wrong last, empty while all is well.
 */
export function useAct() {
  const client = useQueryClient()
  const { mutate, error, isPending } = useMutation({
    mutationFn: (send: () => Promise<unknown>) => send(),
    onSuccess: () => client.invalidateQueries(),
  })
  return { act: mutate, failed: error?.message ?? '', busy: isPending }
}
