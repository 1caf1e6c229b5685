import type { FoundBackup } from '@lumbrin/core/backup/discover'
import { useCallback, useEffect, useRef, useState } from 'react'
import { askLines, wordsOf } from '../../api/client'
import type { Wire } from '../../domain/wire'

export type Found = Wire<FoundBackup>

/**
 * A search for backups: what it found, where it is, and the ways to begin and to stop one. It begins with `first`; an
 * empty text: the usual folders.
 */
export function useBackupSearch(first = '') {
  const [found, setFound] = useState<Found[]>([])
  const [at, setAt] = useState<{ folder: string; seen: number } | null>(null)
  const [state, setState] = useState<'running' | 'done' | 'stopped'>('running')
  const [failed, setFailed] = useState('')
  const running = useRef<AbortController>(undefined)
  const search = useCallback(async (folder?: string) => {
    running.current?.abort()
    const mine = new AbortController()
    running.current = mine
    setState('running')
    setFailed('')
    setFound([])
    try {
      await askLines('GET /api/backups', { query: { folder: folder || null }, signal: mine.signal }, (step) => {
        if (mine.signal.aborted) return
        if ('backup' in step) setFound((known) => [...known, step.backup])
        else setAt(step)
      })
      if (running.current === mine) setState('done')
    } catch (thrown) {
      if (running.current !== mine) return
      setState('stopped')
      if (!mine.signal.aborted) setFailed(wordsOf(thrown))
    }
  }, [])
  const stop = useCallback(() => running.current?.abort(), [])
  useEffect(() => {
    void search(first)
    return stop
  }, [search, stop, first])
  return { found, at, state, failed, search, stop }
}
