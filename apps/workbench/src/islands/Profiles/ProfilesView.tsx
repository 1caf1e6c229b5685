import type { Profile } from '@lumbrin/core/categories/chats/profile'
import { useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Island } from '../../components/Island'
import { Scroller } from '../../components/Scroller'
import type { Zoned } from '../../components/times'
import { useAsk } from '../../components/useAsk'
import type { OwnProfiles, Trial } from '../../domain/profile'
import { TrialResult } from './TrialResult'

interface Props extends Zoned {
  builtIn: Profile[]
  own: OwnProfiles
  sources: { id: number; name: string }[]
}

/** The profiles by which third-party conversations are read, and a bench to try one. */
export function ProfilesView(props: Props) {
  return (
    <Island zone={props.zone}>
      <Profiles {...props} />
    </Island>
  )
}

const written = (profile: Profile | undefined) => JSON.stringify(profile, null, 2)

function Profiles({ builtIn, own: first, sources }: Props) {
  const { answer, again } = useAsk('GET /api/profiles', {}, { first })
  const { profiles: own, problems } = answer ?? first
  const [text, setText] = useState(() => written(own[0] ?? builtIn[0]))
  const [source, setSource] = useState(sources[0]?.id)
  const [trial, setTrial] = useState<Trial | null>(null)
  const [said, setSaid] = useState<{ bad: boolean; words: string } | null>(null)
  const [busy, setBusy] = useState(false)
  const perform = async (work: () => Promise<string>) => {
    setBusy(true)
    setSaid(null)
    try {
      setSaid({ bad: false, words: await work() })
    } catch (thrown) {
      setSaid({ bad: true, words: wordsOf(thrown) })
    }
    setBusy(false)
  }
  const tryIt = () =>
    perform(async () => {
      if (source === undefined) return 'There is no source to try it on.'
      setTrial(null)
      setTrial(await ask('POST /api/profiles/trial', { body: { text, source } }))
      return 'Tried. Nothing of it was kept.'
    })
  const save = () =>
    perform(async () => {
      const { name } = await ask('PUT /api/profiles', { body: { text } })
      await again()
      return `Saved as “${name}”. Reads that start from now on use it.`
    })
  const remove = (id: string) =>
    perform(async () => {
      await ask('DELETE /api/profiles/{profile}', { path: { profile: id } })
      await again()
      return 'Removed.'
    })
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[15rem_minmax(22rem,1fr)_minmax(26rem,1.3fr)] overflow-hidden">
      <nav aria-label="Profiles" className="space-y-5 overflow-auto border-r border-rule p-5">
        <h1 className="text-lg">Mapping profiles</h1>
        <p className="text-sm text-soft">
          A profile says in which tables and columns an application keeps its conversations. Start from one of these.
        </p>
        <Group title="Your own" profiles={own} open={(one) => setText(written(one))} remove={remove} />
        <Group title="With the product" profiles={builtIn} open={(one) => setText(written(one))} />
        {problems.map((problem) => (
          <p key={problem} className="notice notice-bad text-sm whitespace-pre-line">
            {problem}
          </p>
        ))}
      </nav>
      <section aria-label="Profile" className="flex min-h-0 flex-col gap-3 border-r border-rule p-5">
        <label className="flex min-h-0 flex-1 flex-col">
          <span className="mb-1">The profile, as JSON</span>
          <textarea
            className="field min-h-0 flex-1 font-mono text-xs"
            spellCheck={false}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <label className="block">
          <span className="mb-1 block">Try it against</span>
          <select className="field" value={source} onChange={(event) => setSource(Number(event.target.value))}>
            {sources.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <p className="flex gap-2">
          <button type="button" className="button button-main" disabled={busy || !source} onClick={tryIt}>
            Try it
          </button>
          <button type="button" className="button" disabled={busy} onClick={save}>
            Save as your own
          </button>
        </p>
        {sources.length === 0 && <p className="text-sm text-soft">There is no source yet. Add one to a job first.</p>}
        {said && (
          <p
            className={said.bad ? 'notice notice-bad max-h-40 overflow-auto text-sm whitespace-pre-line' : 'text-soft'}
            role={said.bad ? 'alert' : 'status'}
          >
            {said.words}
          </p>
        )}
      </section>
      <Scroller label="What it reads" className="min-h-0 overflow-auto p-5">
        <TrialResult trial={trial} busy={busy} />
      </Scroller>
    </div>
  )
}

function Group({
  title,
  profiles,
  open,
  remove,
}: {
  title: string
  profiles: Profile[]
  open: (profile: Profile) => void
  remove?: (id: string) => void
}) {
  return (
    <div>
      <h2 className="mb-1 text-sm font-semibold">{title}</h2>
      {profiles.length === 0 && <p className="text-sm text-soft">None yet.</p>}
      <ul className="space-y-1">
        {profiles.map((profile) => (
          <li key={profile.id} className="flex items-baseline justify-between gap-2">
            <button type="button" className="text-left text-accent underline" onClick={() => open(profile)}>
              {profile.name}
            </button>
            {remove && (
              <button
                type="button"
                className="text-sm text-soft underline"
                onClick={() => remove(profile.id)}
                aria-label={`Remove ${profile.name}`}
              >
                Remove
              </button>
            )}
          </li>
        ))}
      </ul>
    </div>
  )
}
