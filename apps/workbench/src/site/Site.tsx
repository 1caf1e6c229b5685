import { definitionOf, GROUPS } from '@lumbrin/core/categories/registry'
import type { SiteKind } from '@lumbrin/core/export/site/shapes'
import { type FormEvent, type ReactNode, useEffect, useRef } from 'react'
import { formatCount } from '../domain/format'
import { GROUP_LABELS } from '../domain/labels'
import { ConversationsView } from './ConversationsView'
import { ConversationView } from './ConversationView'
import { GalleryView } from './GalleryView'
import { ItemView } from './ItemView'
import { ListView } from './ListView'
import { PeopleView, PersonView } from './PeopleView'
import { PlacesView } from './PlacesView'
import { addressOf, type Route, routeOf, useAddress } from './route'
import { SearchView } from './SearchView'
import { StartView } from './StartView'
import { useStart } from './useParts'

/** All pages of a package: head with the search, where one can go, and where one is. */
export function Site() {
  const start = useStart()
  const address = useAddress()
  const route = routeOf(address)
  const main = useRef<HTMLElement>(null)
  const isFirst = useRef(true)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another address is what asks for it
  useEffect(() => {
    // Whoever goes on by keyboard or listens goes on in the new page.
    if (!isFirst.current) main.current?.focus()
    isFirst.current = false
  }, [address])
  return (
    <div className="flex h-dvh flex-col">
      <button type="button" className="button sr-only focus:not-sr-only" onClick={() => main.current?.focus()}>
        Skip to the page
      </button>
      <header className="flex flex-wrap items-center gap-x-6 gap-y-2 border-b border-rule px-5 py-3">
        <a href={addressOf()} className="text-lg font-semibold">
          {start.title}
        </a>
        <SearchBox
          key={route.view === 'search' ? route.words : ''}
          words={route.view === 'search' ? route.words : ''}
        />
      </header>
      <div className="flex min-h-0 flex-1 flex-col md:flex-row">
        <Navigation route={route} />
        <main ref={main} id="main" tabIndex={-1} className="flex min-h-0 min-w-0 flex-1 flex-col outline-none">
          <View key={address} route={route} />
        </main>
      </div>
    </div>
  )
}

function View({ route }: { route: Route }) {
  const { kinds } = useStart()
  if (route.view === 'people') return <PeopleView />
  if (route.view === 'places') return <PlacesView />
  if (route.view === 'person') return <PersonView index={route.index} />
  if (route.view === 'item') return <ItemView number={route.number} />
  if (route.view === 'search') return <SearchView words={route.words} />
  if (route.view === 'conversation') return <ConversationView index={route.index} at={route.at} />
  const kind = route.view === 'kind' ? kinds.find(({ id }) => id === route.kind) : undefined
  if (!kind) return <StartView />
  if (kind.layout === 'gallery') return <GalleryView kind={kind} />
  return kind.layout === 'conversations' ? <ConversationsView kind={kind} /> : <ListView kind={kind} />
}

function SearchBox({ words }: { words: string }) {
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    const wanted = String(new FormData(event.currentTarget).get('words') ?? '').trim()
    if (wanted !== '') window.location.hash = addressOf('search', wanted)
  }
  return (
    <search className="min-w-60 flex-1 md:max-w-lg">
      <form onSubmit={submit} className="flex gap-2">
        <input
          name="words"
          type="search"
          defaultValue={words}
          aria-label="Search in everything"
          placeholder="Search in everything"
          className="field"
        />
        <button type="submit" className="button shrink-0">
          Search
        </button>
      </form>
    </search>
  )
}

/** Where one can go: kinds in their groups, people, places. */
function Navigation({ route }: { route: Route }) {
  const { kinds, people, places } = useStart()
  const isAt = (view: Route['view']) => route.view === view
  return (
    <nav
      aria-label="This package"
      className="flex shrink-0 gap-1 overflow-x-auto border-b border-rule px-3 py-2 md:w-60 md:flex-col md:overflow-y-auto md:border-r md:border-b-0 md:py-4"
    >
      <Way to={addressOf()} current={isAt('start')}>
        Start
      </Way>
      {GROUPS.map((group) => {
        const own = kinds.filter(({ id }) => definitionOf(id).group === group)
        return (
          own.length > 0 && (
            <div key={group} className="contents md:block md:pt-3">
              <p className="hidden px-2 pb-1 text-sm text-soft md:block">{GROUP_LABELS[group]}</p>
              {own.map((kind) => (
                <KindWay key={kind.id} kind={kind} route={route} />
              ))}
            </div>
          )
        )
      })}
      {(people > 0 || places > 0) && (
        <div className="contents md:block md:pt-3">
          <p className="hidden px-2 pb-1 text-sm text-soft md:block">Across all</p>
          {people > 0 && (
            <Way to={addressOf('people')} current={isAt('people') || isAt('person')} count={people}>
              People
            </Way>
          )}
          {places > 0 && (
            <Way to={addressOf('places')} current={isAt('places')} count={places}>
              Map
            </Way>
          )}
        </div>
      )}
    </nav>
  )
}

function KindWay({ kind, route }: { kind: SiteKind; route: Route }) {
  const isCurrent =
    (route.view === 'kind' && route.kind === kind.id) ||
    (route.view === 'item' && route.number >= kind.from && route.number < kind.to)
  return (
    <Way to={addressOf('kind', kind.id)} current={isCurrent} count={kind.to - kind.from}>
      {kind.label}
    </Way>
  )
}

interface WayProps {
  to: string
  current: boolean
  count?: number
  children: ReactNode
}

function Way({ to, current, count, children }: WayProps) {
  return (
    <a
      href={to}
      aria-current={current ? 'page' : undefined}
      className="flex min-h-8 items-center justify-between gap-3 rounded-sm px-2 whitespace-nowrap hover:bg-sunk aria-[current]:bg-wash aria-[current]:font-semibold"
    >
      <span>{children}</span>
      {count !== undefined && <span className="text-sm font-normal text-soft">{formatCount(count)}</span>}
    </a>
  )
}
