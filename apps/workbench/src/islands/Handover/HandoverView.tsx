import type { CategoryId } from '@lumbrin/core/categories/registry'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import type { Zoned } from '../../components/times'
import { useAct } from '../../components/useAct'
import { useJobProgress } from '../../components/useJobProgress'
import { formatBytes, plural } from '../../domain/format'
import { MEDIA } from '../../domain/media'
import type { JobProgress } from '../../domain/progress'
import type { Wire } from '../../domain/wire'
import { FolderPicker } from './FolderPicker'
import { type FormatChoice, FormatTable } from './FormatTable'
import { HandoverCard } from './HandoverCard'

interface Props extends Zoned {
  jobId: number
  roots: string[]
  suggested: string
  offered: Record<CategoryId, FormatChoice[]>
  /** The formats chosen last, or the usual ones. */
  formats: Record<CategoryId, string[]>
  progress: Wire<JobProgress>
}

/** Writes the tray into a folder or a zip, and lists what was handed over before. */
export function HandoverView(props: Props) {
  return (
    <Island zone={props.zone}>
      <Handover {...props} />
    </Island>
  )
}

function Handover({ jobId, roots, suggested, offered, formats: first, progress }: Props) {
  const { tray: summed, handovers } = useJobProgress(jobId, progress)
  const tray = summed ?? []
  const [folder, setFolder] = useState(suggested)
  const [formats, setFormats] = useState(first)
  const [duplicates, setDuplicates] = useState<'once' | 'each'>('once')
  const [partBytes, setPartBytes] = useState(0)
  const [second, setSecond] = useState('')
  const [picking, setPicking] = useState<'first' | 'second' | null>(null)
  const { act, failed } = useAct()
  const items = tray.reduce((sum, line) => sum + line.count, 0)
  const bytes = tray.reduce((sum, line) => sum + line.bytes, 0)
  const categories = [...new Set(tray.map((line) => line.category))]
  const ready = items > 0 && categories.every((category) => formats[category].length > 0)
  const start = (to: { kind: 'folder'; folder: string } | { kind: 'zip' }) => {
    const chosen = Object.fromEntries(categories.map((category) => [category, formats[category]]))
    const body = {
      ...to,
      formats: chosen,
      duplicates,
      ...(partBytes > 0 && to.kind === 'folder' ? { partBytes } : {}),
      ...(second.trim() !== '' && to.kind === 'folder' ? { second: second.trim() } : {}),
    }
    act(() => ask('POST /api/jobs/{job}/handovers', { path: { job: jobId }, body }))
  }
  useHotkeys('w', () => start({ kind: 'folder', folder }), { enabled: ready })
  return (
    <div className="max-w-5xl space-y-8 overflow-auto p-5">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          start({ kind: 'folder', folder })
        }}
      >
        <p>
          {summed ? (
            <>
              <strong>{plural(items, 'item')}</strong> in the tray, {formatBytes(bytes)}.{' '}
            </>
          ) : (
            <span className="text-soft">Summing up the tray…</span>
          )}
          {summed && items === 0 && (
            <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/findings`}>
              Pick some in Findings first.
            </a>
          )}
        </p>
        {items > 0 && (
          <FormatTable
            categories={categories}
            offered={offered}
            chosen={formats}
            choose={(category, ids) => setFormats({ ...formats, [category]: ids })}
          />
        )}
        <label className="flex items-center gap-2">
          <span>Files with the same content</span>
          <select
            className="field w-auto"
            value={duplicates}
            onChange={({ target }) => setDuplicates(target.value === 'each' ? 'each' : 'once')}
          >
            <option value="once">once, and named in the index where they come again</option>
            <option value="each">each by itself</option>
          </select>
        </label>
        <label className="flex items-center gap-2">
          <span>Parts</span>
          <select
            className="field w-auto"
            value={partBytes}
            onChange={({ target }) => setPartBytes(Number(target.value))}
          >
            <option value={0}>one package</option>
            {MEDIA.map(({ label, bytes: most }) => (
              <option key={most} value={most}>
                as many as needed, each for {label}
              </option>
            ))}
          </select>
        </label>
        <div>
          <label className="block" htmlFor="handover-folder">
            <span className="font-semibold">Folder for the package</span>{' '}
            <span className="text-sm text-soft">
              new, empty, or an earlier handover, to which only what is new is added; below {roots.join(' or ')}
            </span>
          </label>
          <FolderField
            id="handover-folder"
            folder={folder}
            change={setFolder}
            pick={() => setPicking('first')}
            required
          />
        </div>
        <div>
          <label className="block" htmlFor="second-folder">
            <span className="font-semibold">Second folder, if wanted</span>{' '}
            <span className="text-sm text-soft">
              on another disk, for a copy that is checked as well; nothing is read twice from the sources
            </span>
          </label>
          <FolderField id="second-folder" folder={second} change={setSecond} pick={() => setPicking('second')} />
        </div>
        <div className="flex gap-3">
          <button type="submit" className="button button-main" disabled={!ready} title="W" aria-keyshortcuts="w">
            Write the package
          </button>
          <button type="button" className="button" disabled={!ready} onClick={() => start({ kind: 'zip' })}>
            Make a zip to download
          </button>
        </div>
        <Failure>{failed}</Failure>
      </form>
      {picking && (
        <FolderPicker
          name={suggested.split(/[\\/]/).at(-1) ?? 'handover'}
          needed={bytes}
          choose={picking === 'first' ? setFolder : setSecond}
          close={() => setPicking(null)}
        />
      )}
      <section aria-label="Handovers">
        <h2 className="mb-2">Handovers of this job</h2>
        {handovers.length === 0 && <p className="text-soft">None yet.</p>}
        {handovers.map((handover) => (
          <HandoverCard key={handover.id} handover={handover} />
        ))}
      </section>
    </div>
  )
}

interface FolderFieldProps {
  id: string
  folder: string
  change: (folder: string) => void
  pick: () => void
  required?: boolean
}

function FolderField({ id, folder, change, pick, required = false }: FolderFieldProps) {
  return (
    <div className="mt-1 flex gap-2">
      <input
        id={id}
        className="field font-mono text-sm"
        value={folder}
        onChange={(event) => change(event.target.value)}
        required={required}
      />
      <button
        type="button"
        className="button whitespace-nowrap"
        onClick={pick}
        aria-label={`Choose the ${id === 'second-folder' ? 'second folder' : 'folder'}`}
      >
        Choose…
      </button>
    </div>
  )
}
