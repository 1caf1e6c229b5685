import type { SiteItem } from '@lumbrin/core/export/site/shapes'
import { Highlighted } from '../components/Highlighted'
import { CATEGORY_LABELS } from '../domain/labels'
import { Standing, When } from './Marks'
import { linkTo } from './parts'
import { addressOf } from './route'
import { useItem } from './useParts'
import { VirtualList } from './VirtualList'

interface Props {
  label: string
  count: number
  /** The number of the item in a row. */
  numberAt: (row: number) => number
  /** Words of a search, which are marked. */
  words?: string
  /** Says of each what kind it is: for lists that hold several. */
  kinds?: boolean
}

/** Items as a list, each of which leads to its own page. */
export function ItemRows({ label, count, numberAt, words = '', kinds = false }: Props) {
  const row = (index: number) => <ItemRow number={numberAt(index)} words={words} kinds={kinds} />
  return <VirtualList label={label} count={count} height={72} row={row} />
}

function ItemRow({ number, words, kinds }: { number: number } & Required<Pick<Props, 'words' | 'kinds'>>) {
  const { data: item } = useItem(number)
  if (!item) return <div className="h-[72px]" />
  const picture = item.file?.preview
  return (
    <a href={addressOf('item', number)} className="flex gap-4 px-2 py-2.5 hover:bg-sunk">
      {picture && <img src={linkTo(picture)} alt="" loading="lazy" className="h-12 w-12 rounded-sm object-cover" />}
      <span className="min-w-0 flex-1">
        <span className="flex flex-wrap items-baseline gap-x-3">
          <b dir="auto" className="min-w-0 break-words">
            <Highlighted text={item.message?.who ?? (item.title || 'Without a name')} words={words} />
          </b>
          {kinds && <span className="text-sm text-soft">{CATEGORY_LABELS[item.kind]}</span>}
          <span className="text-sm">
            <Standing item={item} />
          </span>
          <span className="ml-auto text-sm">
            <When item={item} />
          </span>
        </span>
        <span dir="auto" className="line-clamp-2 break-words text-soft">
          <Highlighted text={snippetOf(item, words)} words={words} />
        </span>
      </span>
    </a>
  )
}

const BEFORE = 60
const MOST = 300

/** The stretch of an item's text in which the first of the words stands. */
function snippetOf(item: SiteItem, words: string): string {
  const { text, title, message, facts = [] } = item
  const own = text && text !== title ? text : facts.map(([label, value]) => `${label}: ${value}`).join(' · ')
  const all = own || (message?.files.map(({ name }) => name).join(', ') ?? '')
  const first = words.trim().split(/\s+/)[0]?.toLowerCase() ?? ''
  const at = first === '' ? -1 : all.toLowerCase().indexOf(first)
  return at > BEFORE ? `… ${all.slice(at - BEFORE, at + MOST)}` : all.slice(0, MOST)
}
