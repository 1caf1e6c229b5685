import { useState } from 'react'
import { sendJson, wordsOf } from '../../components/api'
import { ErrorBoundary } from '../../components/ErrorBoundary'
import type { Settings } from '../../services/settings'

const linesOf = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)

/** Folders of this computer that the workbench looks into and writes to. */
export function SettingsForm(props: { settings: Settings }) {
  return (
    <ErrorBoundary>
      <Form {...props} />
    </ErrorBoundary>
  )
}

function Form({ settings }: { settings: Settings }) {
  const [searchFolders, setSearchFolders] = useState(settings.searchFolders.join('\n'))
  const [allowedRoots, setAllowedRoots] = useState(settings.allowedRoots.join('\n'))
  const [result, setResult] = useState<{ bad: boolean; words: string } | null>(null)
  const save = async (event: React.FormEvent) => {
    event.preventDefault()
    try {
      await sendJson('PUT', '/api/settings', {
        searchFolders: linesOf(searchFolders),
        allowedRoots: linesOf(allowedRoots),
      })
      setResult({ bad: false, words: 'Saved.' })
    } catch (thrown) {
      setResult({ bad: true, words: `Not saved: ${wordsOf(thrown)}` })
    }
  }
  return (
    <form onSubmit={save} className="max-w-2xl space-y-5">
      <FolderList
        label="Folders searched for backups"
        hint="beside the places where desktop systems keep them; one a line"
        value={searchFolders}
        change={setSearchFolders}
      />
      <FolderList
        label="Folders for handovers"
        hint="packages are only written below these; one a line"
        value={allowedRoots}
        change={setAllowedRoots}
      />
      <div className="flex items-center gap-4">
        <button type="submit" className="button button-main">
          Save
        </button>
        <output className={result?.bad ? 'notice notice-bad whitespace-pre-line' : 'text-soft'}>
          {result?.words ?? ''}
        </output>
      </div>
    </form>
  )
}

function FolderList({
  label,
  hint,
  value,
  change,
}: {
  label: string
  hint: string
  value: string
  change: (text: string) => void
}) {
  return (
    <label className="block">
      <span className="mb-1 block">
        <span className="font-semibold">{label}</span> <span className="text-sm text-soft">{hint}</span>
      </span>
      <textarea
        rows={4}
        className="field font-mono text-sm"
        value={value}
        onChange={(event) => change(event.target.value)}
      />
    </label>
  )
}
