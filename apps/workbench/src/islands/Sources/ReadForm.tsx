import type { SourceInfo } from '@lumbrin/core/backup/types'
import { CARVED_CATEGORIES, CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { PASSES, type Pass, USUAL_PASSES } from '@lumbrin/core/categories/types'
import { useState } from 'react'
import { ask } from '../../api/client'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import { formatBytes, plural } from '../../domain/format'
import { PASS_WORDS } from '../../domain/labels'
import { Choices } from './Choices'
import { Kinds, type PresetId, Presets, presetsOf } from './Presets'

/** Passes that a category is read in, of such a source. */
function passesOf(category: CategoryId, kind: SourceInfo['kind']): readonly Pass[] {
  if (kind === 'image') return ['carving']
  return CARVED_CATEGORIES.includes(category) ? PASSES : USUAL_PASSES
}

interface Props {
  sourceId: number
  wanted: CategoryId[]
  /** What was read before, as "category/pass": it is not read again. */
  finished: string[]
  info: Pick<SourceInfo, 'only' | 'kind'>
}

/** Chooses what a read takes in; preset from the brief. */
export function ReadForm({ sourceId, wanted, finished, info }: Props) {
  // A device is read as it is now: that is a state of its own, and nothing of it was read before.
  const nextState = info.kind === 'device' && finished.length > 0
  const isRead = (category: CategoryId) =>
    !nextState && passesOf(category, info.kind).every((pass) => finished.includes(`${category}/${pass}`))
  const unread = CATEGORY_IDS.filter((id) => !isRead(id) && (!info.only || info.only.includes(id)))
  const presets = presetsOf(unread, wanted)
  // Where the brief's kinds are read, nothing more is taken without being asked for.
  const [usual] = presets.filter(({ id }) => id === 'brief' || finished.length === 0)
  const [preset, setPreset] = useState<PresetId>(usual?.id ?? 'chosen')
  const [picked, setPicked] = useState<CategoryId[]>([])
  const categories =
    preset === 'chosen'
      ? picked.filter((one) => unread.includes(one))
      : (presets.find(({ id }) => id === preset)?.categories ?? [])
  // Bytes without names hold nothing but what is cut out of them.
  const possible: readonly Pass[] = info.kind === 'image' ? ['carving'] : PASSES
  const [passes, setPasses] = useState<Pass[]>(info.kind === 'image' ? ['carving'] : [...USUAL_PASSES])
  const [enough, setEnough] = useState('')
  const { act, failed } = useAct()
  // A state that is new is a source of its own, which then stands beside this one.
  const send = (body: object) =>
    act(() => ask('POST /api/sources/{source}/reads', { path: { source: sourceId }, body }))
  const start = (event: React.FormEvent) => {
    event.preventDefault()
    send({ categories, passes, enough: enough === '' ? null : Number(enough) })
  }
  if (unread.length === 0) {
    const all = [...new Set(finished.map((one) => one.split('/')[0]))]
    const isLibrary = info.kind === 'cloud-library'
    return (
      <p className="flex flex-wrap items-center gap-3 text-soft">
        Everything that can be read of this source is in the job.
        <button
          type="button"
          className="button"
          onClick={() => send({ categories: all, passes: [], again: !isLibrary })}
        >
          {isLibrary ? 'Read it as it is now' : 'Read it again'}
        </button>
        {failed && <span role="alert">{failed}</span>}
      </p>
    )
  }
  return (
    <form onSubmit={start} className="flex flex-wrap items-center gap-x-6 gap-y-2">
      {nextState && (
        <p className="w-full text-soft">
          The device is read as it is now, beside what was seen before, which keeps its date. Pictures that did not
          change are not fetched again.
        </p>
      )}
      <Presets presets={presets} chosen={preset} choose={setPreset} />
      {preset === 'chosen' && <Kinds unread={unread} chosen={picked} change={setPicked} />}
      <Choices legend="Look for" all={possible} labels={PASS_WORDS} chosen={passes} change={setPasses} />
      <label className="flex items-center gap-2">
        Stop when
        <input
          type="number"
          min={1}
          className="field !w-20"
          aria-label="Stop when so many matches are there"
          placeholder="all"
          value={enough}
          onChange={(event) => setEnough(event.target.value)}
        />
        matches are there
      </label>
      {info.kind === 'cloud-backup' && <DownloadSize sourceId={sourceId} categories={categories} />}
      <button type="submit" className="button button-main" disabled={categories.length === 0 || passes.length === 0}>
        Start reading
      </button>
      {failed && (
        <p className="notice w-full" role="alert">
          {failed}
        </p>
      )}
    </form>
  )
}

/** What a read of these categories would download, before it is started. */
function DownloadSize({ sourceId, categories }: { sourceId: number; categories: readonly CategoryId[] }) {
  const { answer } = useAsk('GET /api/sources/{source}/overview', { path: { source: sourceId } })
  const sizes = answer?.categories ?? []
  const chosen = sizes.filter(({ category }) => categories.includes(category))
  const files = chosen.reduce((sum, one) => sum + one.files, 0)
  const bytes = chosen.reduce((sum, one) => sum + one.bytes, 0)
  if (files === 0) return null
  return (
    <p className="w-full text-soft">
      To download: {plural(files, 'file')}, {formatBytes(bytes)}; what is here already is not fetched again.
    </p>
  )
}
