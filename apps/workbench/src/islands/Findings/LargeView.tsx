import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { contentAddress, thumbnailAddress } from '../../components/addresses'
import { CloseButton, Dialog } from '../../components/Dialog'
import { StandingMark } from '../../components/StandingMark'
import { ItemTime } from '../../components/times'
import type { FindingLine } from '../../domain/finding'
import { Film } from './Preview'

// What browsers show by themselves; all else comes as WebP.
const SHOWN_BY_BROWSERS = /\.(jpe?g|png|gif|webp)$/i

const pictureAddress = ({ id, title, fields }: FindingLine) =>
  SHOWN_BY_BROWSERS.test(String(fields.path ?? fields.fileName ?? title))
    ? contentAddress(id)
    : thumbnailAddress(id, 'large')

interface Props {
  line: FindingLine
  /** Those that the arrows go through. */
  lines: FindingLine[]
  go: (line: FindingLine) => void
  close: () => void
}

const STEPS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }

/** One finding over the whole window: arrows go to the next, + and - enlarge a picture, Escape closes. */
export function LargeView({ line, lines, go, close }: Props) {
  const at = lines.findIndex(({ id }) => id === line.id)
  const onKeyDown = (event: React.KeyboardEvent) => {
    const next = lines[at + (STEPS[event.key] ?? 0)]
    // A player's own keys are left to it, and those by which an enlarged picture is moved.
    const own = event.target instanceof HTMLMediaElement || (event.target as HTMLElement).role === 'group'
    if (!next || next === line || own) return
    event.preventDefault()
    go(next)
  }
  return (
    <Dialog label={line.title || 'Without a name'} close={close} onKeyDown={onKeyDown} className="!p-4">
      <div className="mb-3 flex items-center gap-4">
        <p className="private font-semibold">{line.title}</p>
        <StandingMark standing={line.standing} label />
        <span className="text-soft">
          <ItemTime item={line} />
        </span>
        {lines.length > 1 && (
          <span className="ml-auto flex items-center gap-2">
            <Step label="Previous" line={lines[at - 1]} go={go} />
            <Step label="Next" line={lines[at + 1]} go={go} />
          </span>
        )}
        <CloseButton className={lines.length > 1 ? '' : 'ml-auto'} />
      </div>
      <Content key={line.id} line={line} />
    </Dialog>
  )
}

function Step({ label, line, go }: { label: string; line: FindingLine | undefined; go: (line: FindingLine) => void }) {
  return (
    <button type="button" className="button" disabled={!line} onClick={() => line && go(line)}>
      {label}
    </button>
  )
}

function Content({ line }: { line: FindingLine }) {
  if (line.category === 'videos' && line.hasContent) return <Film line={line} large />
  if (line.category === 'photos' && !line.hasContent)
    return <p>The picture itself is not in the source. Its name, date and place are what is left.</p>
  if (line.category === 'photos' || String(line.fields.mime ?? '').startsWith('image/')) return <Picture line={line} />
  return (
    <p dir="auto" className="private max-w-2xl text-lg break-words whitespace-pre-wrap">
      {line.text ?? 'There is no text.'}
    </p>
  )
}

const MOST_ZOOM = 8
const zoomed = (now: number, factor: number) => Math.min(MOST_ZOOM, Math.max(1, now * factor))
const STEP = 1.5
/** The keys as they are written on the keyboard; none of them is held with another. */
const KEYS = { useKey: true, splitKey: ' ' }

/** A picture that fits the window, and can be enlarged beyond it. */
function Picture({ line }: { line: FindingLine }) {
  const [zoom, setZoom] = useState(1)
  const by = (factor: number) => setZoom((now) => zoomed(now, factor))
  useHotkeys('+', () => by(STEP), KEYS)
  useHotkeys('-', () => by(1 / STEP), KEYS)
  return (
    <>
      <div
        className="max-h-[80vh] max-w-[92vw] overflow-auto"
        {...(zoom > 1 ? { tabIndex: 0, role: 'group', 'aria-label': 'Enlarged picture; arrows move it' } : {})}
      >
        <img
          src={pictureAddress(line)}
          alt={line.title}
          className="private"
          style={zoom === 1 ? { maxHeight: '78vh', maxWidth: '100%' } : { width: `${zoom * 90}vw`, maxWidth: 'none' }}
        />
      </div>
      <p className="mt-2 flex items-center gap-2 text-sm">
        <button type="button" className="button" onClick={() => by(1 / STEP)} disabled={zoom === 1}>
          Smaller
        </button>
        <button type="button" className="button" onClick={() => by(STEP)} disabled={zoom >= MOST_ZOOM}>
          Larger
        </button>
        <span className="text-soft">
          {zoom === 1 ? 'fits the window' : `${Math.round(zoom * 100)} %`}; keys + and −, arrows for the next
        </span>
      </p>
    </>
  )
}
