import { useQuery } from '@tanstack/react-query'
import { ask } from '../../api/client'
import type { FindingLine } from '../../domain/finding'

/** Results without those that look like one before them. */
export interface Folded {
  shown: FindingLine[]
  /** By the id of a finding that is shown: how many lie under it. */
  under: ReadonlyMap<number, number>
}

/** Folds findings of one stack under the first of them. `stacks`: the stack of each finding that is in one. */
export function folded(lines: FindingLine[], stacks: ReadonlyMap<number, number>): Folded {
  const firsts = new Map<number, number>()
  const under = new Map<number, number>()
  const shown = lines.filter(({ id }) => {
    const stack = stacks.get(id)
    const first = stack === undefined ? undefined : firsts.get(stack)
    if (first === undefined) {
      if (stack !== undefined) firsts.set(stack, id)
      return true
    }
    under.set(first, (under.get(first) ?? 0) + 1)
    return false
  })
  return { shown, under }
}

const NOTHING: ReadonlyMap<number, number> = new Map()

/** The same with the job's stacks; while they are not known, or folding is not wanted, everything is shown. */
export function useFolded(jobId: number, lines: FindingLine[], wanted: boolean): Folded {
  const { data } = useQuery({
    queryKey: ['stacks', jobId],
    enabled: wanted,
    queryFn: async ({ signal }) =>
      new Map<number, number>(await ask('GET /api/jobs/{job}/stacks', { path: { job: jobId }, signal })),
  })
  return wanted && data ? folded(lines, data) : { shown: lines, under: NOTHING }
}
