import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { FormProvider, useForm } from 'react-hook-form'
import { ask, RequestError, wordsOf } from '../../api/client'
import { Island } from '../../components/Island'
import { keyOf } from '../../components/useAsk'
import type { Brief } from '../../domain/brief'
import type { SavedBrief } from '../../domain/job'
import { CrossedBrief } from './CrossedBrief'
import { MoreFields } from './MoreFields'
import { Questions } from './Questions'

interface Props {
  /** Null: the form opens a new job. */
  jobId: number | null
  brief: Brief
  /** Of the brief that is shown; null: the form opens a new job. */
  version?: string | null
  /** Names to pick from. */
  people?: string[]
  /** Told of every change, before it is saved. */
  changed?: (draft: Brief) => void
  saved?: (kept: SavedBrief) => void
  cancel?: () => void
}

type Result = { kind: 'failed'; words: string } | { kind: 'crossed'; theirs: SavedBrief } | null

/** What is sought, for whom, under which conditions. */
export function BriefForm(props: Props) {
  return (
    <Island>
      <Form {...props} />
    </Island>
  )
}

function Form({ jobId, brief, version = null, people = [], changed, saved, cancel }: Props) {
  const client = useQueryClient()
  const seen = useRef(version)
  const form = useForm<Brief>({ defaultValues: brief })
  const { handleSubmit, formState, subscribe, reset, getValues } = form
  const [result, setResult] = useState<Result>(null)
  useEffect(
    () => changed && subscribe({ formState: { values: true }, callback: ({ values }) => changed(values) }),
    [changed, subscribe],
  )
  const save = async (values: Brief) => {
    try {
      if (jobId === null) location.href = `/jobs/${(await ask('POST /api/jobs', { body: values })).id}/answer`
      else {
        const request = { path: { job: jobId }, body: values, version: seen.current ?? '' }
        saved?.(await ask('PUT /api/jobs/{job}/brief', request))
      }
    } catch (thrown) {
      const crossed = thrown instanceof RequestError && thrown.code === 'conflict' && jobId !== null
      const theirs = crossed ? await ask('GET /api/jobs/{job}/brief', { path: { job: jobId } }).catch(() => null) : null
      setResult(theirs ? { kind: 'crossed', theirs } : { kind: 'failed', words: wordsOf(thrown) })
    }
  }
  const keepMine = (theirs: SavedBrief) => {
    seen.current = theirs.version
    void handleSubmit(save)()
  }
  const takeTheirs = (theirs: SavedBrief) => {
    seen.current = theirs.version
    reset(theirs.brief)
    if (jobId !== null) client.setQueryData(keyOf('GET /api/jobs/{job}/brief', { path: { job: jobId } }), theirs)
    setResult(null)
  }
  return (
    <FormProvider {...form}>
      <form onSubmit={handleSubmit(save)} className="max-w-3xl space-y-6">
        <Questions people={people} />
        <MoreFields />
        {result?.kind === 'crossed' && (
          <CrossedBrief
            mine={getValues()}
            theirs={result.theirs.brief}
            keepMine={() => keepMine(result.theirs)}
            takeTheirs={() => takeTheirs(result.theirs)}
          />
        )}
        <div className="flex items-center gap-4">
          <button type="submit" className="button button-main" disabled={formState.isSubmitting}>
            {jobId === null ? 'Open the job' : 'Save the brief'}
          </button>
          {cancel && (
            <button type="button" className="button" onClick={cancel}>
              Cancel
            </button>
          )}
          <output className={result?.kind === 'failed' ? 'notice notice-bad whitespace-pre-line' : ''}>
            {result?.kind === 'failed' && `Not saved: ${result.words}`}
          </output>
        </div>
      </form>
    </FormProvider>
  )
}
