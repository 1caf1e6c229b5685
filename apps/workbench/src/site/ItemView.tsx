import type { SiteItem } from '@lumbrin/core/export/site/shapes'
import { useEffect, useState } from 'react'
import { Facts } from './Facts'
import { InPart } from './InPart'
import { Standing, When } from './Marks'
import { MessageFiles } from './MessageFiles'
import { PageHead, Scrolled, Waiting } from './Page'
import { Picture, Unshown } from './Picture'
import { linkTo } from './parts'
import { addressOf } from './route'
import { useConversations, useItem, useStart } from './useParts'

/** One item whole: its picture, film, sound or text, all that is known of it, and the way to its neighbours. */
export function ItemView({ number }: { number: number }) {
  const { kinds, meaning } = useStart()
  const { data: item, error } = useItem(number)
  const kind = kinds.find(({ from, to }) => number >= from && number < to)
  useEffect(() => {
    if (!kind) return
    const onKey = (event: KeyboardEvent) => {
      const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
      const next = number + step
      if (step === 0 || next < kind.from || next >= kind.to || isOwnKey(event)) return
      event.preventDefault()
      window.location.replace(addressOf('item', next))
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [number, kind])
  if (!item || !kind) return <Waiting error={error ?? (kind ? null : new Error('There is no such item here.'))} />
  return (
    <>
      <PageHead title={item.message?.who ?? (item.title || 'Without a name')} words={<When item={item} />}>
        <Step label="Previous" number={number - 1} is={number > kind.from} />
        <Step label="Next" number={number + 1} is={number + 1 < kind.to} />
        <a className="button" href={addressOf('kind', kind.id)}>
          All {kind.label.toLowerCase()}
        </a>
      </PageHead>
      <Scrolled label={item.title || kind.label}>
        {item.standing !== 'kept' && (
          <p className="flex flex-wrap items-center gap-x-3 pb-3">
            <Standing item={item} /> <span className="text-soft">{meaning[item.standing]}</span>
          </p>
        )}
        {item.missed && <p className="notice mb-4">Its content could not be written into this package.</p>}
        <Content item={item} />
        {item.text && item.text !== item.title && (
          <p dir="auto" className="max-w-3xl py-2 break-words whitespace-pre-wrap">
            {item.text}
          </p>
        )}
        {item.message && <MessageFiles files={item.message.files} />}
        {item.message && <InConversation number={number} />}
        <div className="pt-3">
          <KnownOf item={item} />
        </div>
      </Scrolled>
    </>
  )
}

/** A player's and a field's keys are their own. */
const isOwnKey = ({ target, ctrlKey, altKey, metaKey }: KeyboardEvent): boolean =>
  ctrlKey || altKey || metaKey || target instanceof HTMLMediaElement || target instanceof HTMLInputElement

function Step({ label, number, is }: { label: string; number: number; is: boolean }) {
  if (!is) return <span className="button text-soft opacity-60">{label}</span>
  return (
    // Whoever goes back comes to the list, not through all that was looked at.
    <a
      className="button"
      href={addressOf('item', number)}
      onClick={(event) => {
        event.preventDefault()
        window.location.replace(addressOf('item', number))
      }}
    >
      {label}
    </a>
  )
}

function Content({ item }: { item: SiteItem }) {
  const { file, large, title } = item
  if (!file) return null
  if (file.place === null) return <p className="py-2 text-soft">Its content is not in this package.</p>
  if (file.mime.startsWith('video/')) return <Film file={file.place} title={title} />
  if (file.mime.startsWith('audio/'))
    // biome-ignore lint/a11y/useMediaCaption: what was recorded has no captions
    return <audio controls preload="metadata" src={linkTo(file.place)} className="my-2 w-full max-w-xl" />
  const shown = large ?? (file.mime.startsWith('image/') ? file.place : null)
  if (shown === null) return null
  return <Picture key={shown} file={file.place} shown={shown} title={title} />
}

function Film({ file, title }: { file: string; title: string }) {
  const [broken, setBroken] = useState(false)
  if (broken) return <Unshown file={file} title={title} why="This browser cannot play it." />
  return (
    // biome-ignore lint/a11y/useMediaCaption: what was recorded has no captions
    <video
      controls
      preload="metadata"
      src={linkTo(file)}
      onError={() => setBroken(true)}
      className="max-h-[72vh] max-w-full"
    />
  )
}

/** The way from a message to the place in its conversation. */
function InConversation({ number }: { number: number }) {
  const { data = [] } = useConversations()
  const index = data.findIndex(({ from, to }) => number >= from && number < to)
  if (index < 0) return null
  return (
    <p className="py-2">
      <a className="button" href={addressOf('conversation', index, number)}>
        In its conversation
      </a>
    </p>
  )
}

function KnownOf({ item: { facts = [], note, file, more = [] } }: { item: SiteItem }) {
  const places = [...(file?.place ? [file.place] : []), ...more]
  const links = places.map(
    (place, i) =>
      [
        i === 0 ? 'File' : '',
        <span key={place}>
          <a className="underline" href={linkTo(place)}>
            {place}
          </a>
          <InPart place={place} />
        </span>,
      ] as const,
  )
  return <Facts facts={[...facts, ...(note ? [['Note', note] as const] : []), ...links]} />
}
