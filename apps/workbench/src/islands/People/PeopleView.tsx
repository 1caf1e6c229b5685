import { useEffect, useState } from 'react'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import type { Zoned } from '../../components/times'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { Inspector } from '../Findings/Inspector'
import { LargeView } from '../Findings/LargeView'
import { TrayNote } from '../Findings/TrayNote'
import { useChoosing } from '../Findings/useChoosing'
import { useTray } from '../Findings/useTray'
import { PersonHead } from './PersonHead'
import { PersonList } from './PersonList'
import { type PersonQuery, usePersonFindings } from './usePerson'

interface Props extends Zoned {
  jobId: number
  /** Names that the job's findings know, the most frequent first. */
  people: string[]
  /** Who is shown; an empty text: nobody. */
  name: string
  sources: Wire<Source>[]
}

/** Everything with one person, over all kinds of finding, in the order of its times. */
export function PeopleView(props: Props) {
  return (
    <Island zone={props.zone}>
      <People {...props} />
    </Island>
  )
}

function People({ zone, jobId, people, name: first, sources }: Props) {
  const [query, setQuery] = useState<PersonQuery>({ name: first, lost: false, category: null })
  const tray = useTray(jobId)
  const { choosing, setActive, large, shrink } = useChoosing({ zone, tray })
  const results = usePersonFindings(jobId, query)
  const pick = (name: string) => {
    setQuery({ name, lost: query.lost, category: null })
    setActive(null)
  }
  useEffect(() => {
    history.replaceState(null, '', `?${new URLSearchParams({ name: query.name })}`)
  }, [query.name])
  return (
    <div className="relative grid min-h-0 flex-1 grid-cols-[14rem_minmax(0,1fr)_23rem] grid-rows-[minmax(0,1fr)] max-lg:grid-cols-[11rem_minmax(0,1fr)] max-lg:grid-rows-[minmax(14rem,1fr)_minmax(8rem,40%)]">
      <Names people={people} current={query.name} pick={pick} />
      <section aria-label={query.name || 'Nobody'} className="flex min-h-0 min-w-0 flex-col">
        {query.name === '' ? (
          <p className="p-5 text-soft">Nobody is known yet: read contacts, calls or messages of a source.</p>
        ) : (
          <>
            <PersonHead
              jobId={jobId}
              query={query}
              change={(part) => setQuery({ ...query, ...part })}
              putAll={() => tray.person(query)}
            />
            {tray.failed && <Failure>{`The tray was not changed: ${tray.failed}`}</Failure>}
            <PersonList query={query} results={results} choosing={choosing} />
          </>
        )}
      </section>
      <div className="min-h-0 max-lg:col-span-2 *:h-full">
        <Inspector jobId={jobId} line={choosing.active} sources={sources} choosing={choosing} person={query.name} />
      </div>
      <TrayNote tray={tray} />
      {large && <LargeView {...large} go={(line) => choosing.enlarge(line, large.lines)} close={shrink} />}
    </div>
  )
}

interface NamesProps {
  people: string[]
  current: string
  pick: (name: string) => void
}

/** Those whom the job knows; somebody else is asked for by a name or a number. */
function Names({ people, current, pick }: NamesProps) {
  const [typed, setTyped] = useState('')
  const shown = people.filter((name) => name.toLowerCase().includes(typed.trim().toLowerCase()))
  return (
    <nav aria-label="People" className="flex min-h-0 flex-col border-r border-rule">
      <form
        className="p-2"
        onSubmit={(event) => {
          event.preventDefault()
          const name = shown[0] ?? typed.trim()
          if (name) pick(name)
        }}
      >
        <input
          className="field"
          aria-label="Name or number"
          placeholder="Name or number"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      </form>
      <ul className="min-h-0 flex-1 overflow-auto">
        {shown.map((name) => (
          <li key={name}>
            <button
              type="button"
              className="private block w-full truncate px-3 py-1 text-left hover:bg-sunk aria-[current]:bg-wash aria-[current]:font-semibold"
              aria-current={name === current ? 'true' : undefined}
              onClick={() => pick(name)}
            >
              {name}
            </button>
          </li>
        ))}
        {shown.length === 0 && (
          <li className="px-3 py-1 text-soft">{typed ? 'Enter looks for exactly that.' : 'Nobody is known yet.'}</li>
        )}
      </ul>
    </nav>
  )
}
