import type { IntegrityReport } from '@lumbrin/core/backup/integrity'
import { useCallback, useEffect, useRef, useState } from 'react'
import { askLines, wordsOf } from '../../api/client'

/** A check of a source: how far it is, its report, and the ways to stop it and to begin again. */
export function useCheck(sourceId: number) {
  const [report, setReport] = useState<IntegrityReport | null>(null)
  const [at, setAt] = useState({ checked: 0, of: 0 })
  const [state, setState] = useState<'running' | 'stopped'>('running')
  const [failed, setFailed] = useState('')
  const running = useRef<AbortController>(undefined)
  const start = useCallback(async () => {
    running.current?.abort()
    const mine = new AbortController()
    running.current = mine
    setState('running')
    setFailed('')
    try {
      await askLines(
        'GET /api/sources/{source}/integrity/steps',
        { path: { source: sourceId }, signal: mine.signal },
        (step) => {
          if (mine.signal.aborted) return
          if ('report' in step) setReport(step.report)
          else setAt(step)
        },
      )
    } catch (thrown) {
      if (running.current !== mine) return
      setState('stopped')
      if (!mine.signal.aborted) setFailed(wordsOf(thrown))
    }
  }, [sourceId])
  const stop = useCallback(() => running.current?.abort(), [])
  useEffect(() => {
    void start()
    return stop
  }, [start, stop])
  return { report, at, state, failed, start, stop }
}
