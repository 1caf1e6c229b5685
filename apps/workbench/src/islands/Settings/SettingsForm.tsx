import { useRef, useState } from 'react'
import { ask, RequestError, wordsOf } from '../../api/client'
import { Island } from '../../components/Island'
import { MOST_READS_AT_ONCE } from '../../domain/reads-at-once'
import type { Settings } from '../../domain/settings'
import { ShopFields } from './ShopFields'

const linesOf = (text: string) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)

interface SavedSettings {
  settings: Settings
  version: string
}

type Result = { kind: 'saved' } | { kind: 'failed'; words: string } | { kind: 'crossed'; theirs: SavedSettings } | null

/** Folders of this computer that the workbench looks into and writes to. `version`: of the settings, as they were loaded. */
export function SettingsForm(props: SavedSettings) {
  return (
    <Island>
      <Form {...props} />
    </Island>
  )
}

function Form({ settings, version }: SavedSettings) {
  const seen = useRef(version)
  const [searchFolders, setSearchFolders] = useState(settings.searchFolders.join('\n'))
  const [allowedRoots, setAllowedRoots] = useState(settings.allowedRoots.join('\n'))
  const [shop, setShop] = useState(settings.shop)
  const [readsAtOnce, setReadsAtOnce] = useState(settings.readsAtOnce)
  const [result, setResult] = useState<Result>(null)
  const save = async () => {
    const mine = { searchFolders: linesOf(searchFolders), allowedRoots: linesOf(allowedRoots), shop, readsAtOnce }
    try {
      seen.current = (await ask('PUT /api/settings', { body: mine, version: seen.current })).version
      setResult({ kind: 'saved' })
    } catch (thrown) {
      const crossed = thrown instanceof RequestError && thrown.code === 'conflict'
      const theirs = crossed ? await ask('GET /api/settings').catch(() => null) : null
      setResult(theirs ? { kind: 'crossed', theirs } : { kind: 'failed', words: wordsOf(thrown) })
    }
  }
  const submit = (event: React.FormEvent) => {
    event.preventDefault()
    void save()
  }
  const settle = (theirs: SavedSettings, whose: 'mine' | 'theirs') => {
    seen.current = theirs.version
    if (whose === 'mine') return void save()
    setSearchFolders(theirs.settings.searchFolders.join('\n'))
    setAllowedRoots(theirs.settings.allowedRoots.join('\n'))
    setShop(theirs.settings.shop)
    setReadsAtOnce(theirs.settings.readsAtOnce)
    setResult(null)
  }
  return (
    <form onSubmit={submit} className="max-w-2xl space-y-5">
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
      <ReadsAtOnce value={readsAtOnce} change={setReadsAtOnce} />
      <ShopFields shop={shop} change={setShop} />
      {result?.kind === 'crossed' && <Crossed theirs={result.theirs} settle={settle} />}
      <div className="flex items-center gap-4">
        <button type="submit" className="button button-main">
          Save
        </button>
        <output className={result?.kind === 'failed' ? 'notice notice-bad whitespace-pre-line' : 'text-soft'}>
          {result?.kind === 'saved' && 'Saved.'}
          {result?.kind === 'failed' && `Not saved: ${result.words}`}
        </output>
      </div>
    </form>
  )
}

/** Two people changed the settings: what the other one saved, and which of the two is to stay. */
function Crossed({
  theirs,
  settle,
}: {
  theirs: SavedSettings
  settle: (theirs: SavedSettings, whose: 'mine' | 'theirs') => void
}) {
  const { searchFolders, allowedRoots, shop, readsAtOnce } = theirs.settings
  return (
    <section aria-label="Two versions of the settings" className="notice notice-bad" role="alert">
      <p className="mb-2 font-semibold">
        Somebody else saved settings since you opened this page. Yours stand above and are not saved yet; theirs are:
      </p>
      <dl className="mb-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        <dt>Folders searched for backups</dt>
        <dd className="font-mono text-sm whitespace-pre-line">{searchFolders.join('\n') || 'none'}</dd>
        <dt>Folders for handovers</dt>
        <dd className="font-mono text-sm whitespace-pre-line">{allowedRoots.join('\n')}</dd>
        <dt>Sources read at once</dt>
        <dd>{readsAtOnce ?? BY_ITSELF}</dd>
        <dt>Head of the papers</dt>
        <dd className="text-sm whitespace-pre-line">
          {[shop.name, shop.address, shop.mark ? 'with a mark' : ''].filter(Boolean).join('\n') || 'none'}
        </dd>
      </dl>
      <div className="flex gap-3">
        <button type="button" className="button" onClick={() => settle(theirs, 'theirs')}>
          Take theirs
        </button>
        <button type="button" className="button" onClick={() => settle(theirs, 'mine')}>
          Save mine in its place
        </button>
      </div>
    </section>
  )
}

const BY_ITSELF = 'as many as suit this computer'
const NUMBERS = Array.from({ length: MOST_READS_AT_ONCE }, (_, i) => i + 1)

function ReadsAtOnce({ value, change }: { value: number | null; change: (value: number | null) => void }) {
  return (
    <label className="block">
      <span className="mb-1 block">
        <span className="font-semibold">Sources read at once</span>{' '}
        <span className="text-sm text-soft">each takes a processor and some 300 MB of memory; others wait</span>
      </span>
      <select
        className="field w-auto"
        value={value ?? ''}
        onChange={({ target }) => change(target.value === '' ? null : Number(target.value))}
      >
        <option value="">{BY_ITSELF}</option>
        {NUMBERS.map((number) => (
          <option key={number}>{number}</option>
        ))}
      </select>
    </label>
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
