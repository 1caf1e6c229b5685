import { useQueryClient } from '@tanstack/react-query'
import { lazy, Suspense, useEffect, useState } from 'react'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import type { Zoned } from '../../components/times'
import { countFindings, useJobProgress } from '../../components/useJobProgress'
import type { FindingLine } from '../../domain/finding'
import { type FindingsQuery, fromAddress, layoutOf } from '../../domain/findings-query'
import type { JobProgress } from '../../domain/progress'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { ConversationPane } from './ConversationPane'
import { DaysView } from './DaysView'
import { FilterBar } from './FilterBar'
import { Inspector } from './Inspector'
import { ItemList } from './ItemList'
import { LargeView } from './LargeView'
import { PictureGrid } from './PictureGrid'
import { Ribbon } from './Ribbon'
import { TrayNote } from './TrayNote'
import { useChoosing } from './useChoosing'
import { useFacets, useFindingLine } from './useFindings'
import { useHistory } from './useHistory'
import { useTray } from './useTray'

// The outline of the world is fetched when somebody wants to see it.
const MapView = lazy(() => import('./MapView').then((module) => ({ default: module.MapView })))

interface Props extends Zoned {
  jobId: number
  address: string
  sources: Wire<Source>[]
  progress: Wire<JobProgress>
}

/** What was found: filters above, results, and at the right all that is known of the one looked at. */
export function FindingsView(props: Props) {
  return (
    <Island zone={props.zone}>
      <Findings {...props} />
    </Island>
  )
}

function Findings({ zone, jobId, address, sources, progress: first }: Props) {
  const [query, setQuery] = useState(() => fromAddress(address, zone))
  const progress = useJobProgress(jobId, first)
  const facets = useFacets(jobId, query.words)
  const tray = useTray(jobId)
  const looked = (line: FindingLine) => change({ finding: line.id })
  const { choosing, setActive, large, shrink } = useChoosing({ zone, tray, looked })
  const fresh = useFreshCount(progress)
  // The map is drawn in the browser only: a page that waits for it would need scripts that the content policy refuses.
  const [inBrowser, setInBrowser] = useState(false)
  useEffect(() => setInBrowser(true), [])
  const change = (part: Partial<FindingsQuery>) => {
    setQuery((now) => ({ ...now, ...part, ...(part.category ? { finding: null } : {}) }))
    if (part.category) setActive(null)
  }
  const open = useFindingLine(setActive)
  useHistory(query, (there) => {
    setQuery(there)
    if (there.finding === null) setActive(null)
    else open(there.finding)
  })
  // biome-ignore lint/correctness/useExhaustiveDependencies: the address that the page came with names it once
  useEffect(() => {
    if (query.finding !== null) open(query.finding)
  }, [])
  const view = layoutOf(query)
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <Ribbon jobId={jobId} query={query} change={change} />
      <FilterBar
        jobId={jobId}
        view={view}
        tray={tray}
        query={query}
        change={change}
        facets={facets.data ?? progress.facets}
        fresh={fresh}
      />
      {tray.failed && <Failure>{`The tray was not changed: ${tray.failed}`}</Failure>}
      <div className="relative grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_23rem] grid-rows-[minmax(0,1fr)] max-lg:grid-cols-1 max-lg:grid-rows-[minmax(14rem,1fr)_minmax(8rem,40%)]">
        {view === 'grid' && <PictureGrid jobId={jobId} query={query} choosing={choosing} />}
        {view === 'list' && <ItemList jobId={jobId} query={query} change={change} choosing={choosing} />}
        {view === 'days' && <DaysView jobId={jobId} query={query} change={change} choosing={choosing} />}
        {view === 'map' && inBrowser && (
          <Suspense fallback={<p className="p-5 text-soft">Drawing the map…</p>}>
            <MapView jobId={jobId} query={query} choosing={choosing} />
          </Suspense>
        )}
        {view === 'conversations' && (
          <ConversationPane jobId={jobId} query={query} change={change} choosing={choosing} />
        )}
        <Inspector jobId={jobId} line={choosing.active} sources={sources} choosing={choosing} />
        <TrayNote tray={tray} />
      </div>
      {large && <LargeView {...large} go={(line) => choosing.enlarge(line, large.lines)} close={shrink} />}
    </div>
  )
}

/** Findings that came since the results were fetched; `show` fetches them. Nothing moves under the pointer by itself. */
function useFreshCount(progress: Wire<JobProgress>) {
  const client = useQueryClient()
  const now = countFindings(progress)
  const [seen, setSeen] = useState(now)
  // The first count is what was there when the page came.
  useEffect(() => setSeen((before) => before ?? now), [now])
  const show = () => {
    setSeen(now)
    void client.invalidateQueries()
  }
  return { count: now === null || seen === null ? 0 : now - seen, show }
}
