import type { SitePerson } from '@lumbrin/core/export/site/shapes'
import { formatCount, plural } from '../domain/format'
import { ItemRows } from './ItemRows'
import { PageHead, Waiting } from './Page'
import { addressOf } from './route'
import { useNumbersOf, usePeople } from './useParts'
import { VirtualList } from './VirtualList'

/** Everybody who has to do with what is here, those with most first. */
export function PeopleView() {
  const { data, error } = usePeople()
  return (
    <>
      <PageHead title="People" words={data && plural(data.length, 'person', 'people')} />
      <VirtualList
        label="People"
        count={data?.length ?? 0}
        height={48}
        row={(index) => {
          const person = data?.[index]
          return person && <Line index={index} person={person} />
        }}
        above={!data && <Waiting error={error} />}
      />
    </>
  )
}

function Line({ index, person: { name, addresses, count, lost } }: { index: number; person: SitePerson }) {
  return (
    <a href={addressOf('person', index)} className="flex flex-wrap items-baseline gap-x-3 px-2 py-2.5 hover:bg-sunk">
      <b dir="auto" className="min-w-0 break-words">
        {name}
      </b>
      <span className="min-w-0 break-words text-soft">{addresses.join(', ')}</span>
      <span className="ml-auto text-sm text-soft">
        {plural(count, 'item')}
        {lost > 0 && `, ${formatCount(lost)} had been lost`}
      </span>
    </a>
  )
}

/** Everything with one person. */
export function PersonView({ index }: { index: number }) {
  const { data, error } = usePeople()
  const person = data?.[index]
  if (!person) return <Waiting error={error ?? (data ? new Error('There is no such person here.') : null)} />
  return <Person person={person} />
}

function Person({ person }: { person: SitePerson }) {
  const { data: numbers, error } = useNumbersOf(person)
  return (
    <>
      <PageHead title={person.name} words={[...person.addresses, plural(person.count, 'item')].join(' · ')}>
        <a className="button" href={addressOf('people')}>
          All people
        </a>
      </PageHead>
      {numbers ? (
        <ItemRows label={person.name} count={numbers.length} numberAt={(row) => numbers[row] ?? 0} kinds />
      ) : (
        <Waiting error={error} />
      )}
    </>
  )
}
