import { useVirtualizer } from '@tanstack/react-virtual'
import { useRef, useState } from 'react'
import { Failure } from '../../components/Failure.js'
import { Scroller } from '../../components/Scroller'
import { Moment } from '../../components/times'
import { useAsk } from '../../components/useAsk'
import type { FileLine } from '../../domain/contents'
import { formatBytes, plural } from '../../domain/format'
import { FilePane } from './FilePane'

/** The files of a source: folder by folder, or by words anywhere in their paths. */
export function FileBrowser({ sourceId }: { sourceId: number }) {
  const [place, setPlace] = useState({ domain: '', folder: '' })
  const [words, setWords] = useState('')
  const [file, setFile] = useState<FileLine | null>(null)
  const box = useRef<HTMLElement>(null)
  const { answer, failed } = useAsk('GET /api/sources/{source}/files', {
    path: { source: sourceId },
    query: { ...place, words },
  })
  const open = (line: FileLine) => {
    if (line.kind === 'folder') setPlace({ domain: line.domain, folder: line.path })
    else setFile(line)
  }
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <section aria-label="Files" className="flex min-h-0 flex-col border-r border-rule">
        <div className="flex items-center gap-3 border-b border-rule px-5 py-2">
          <Steps place={place} go={setPlace} />
          <input
            type="search"
            className="field ml-auto !w-56"
            placeholder="Search all paths"
            aria-label="Search all paths"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
        </div>
        <Scroller ref={box} label="Folder" className="min-h-0 flex-1 overflow-auto px-5">
          <Failure className="mt-3">{failed}</Failure>
          {answer?.lines.length === 0 && <p className="mt-3 text-soft">Nothing is here.</p>}
          {answer && <Lines lines={answer.lines} whole={words !== ''} chosen={file} open={open} box={box} />}
          {answer?.more && <p className="py-2 text-soft">Only the first 20,000 are listed. Search narrows them.</p>}
        </Scroller>
      </section>
      {file ? (
        <FilePane key={`${file.domain}/${file.path}`} sourceId={sourceId} file={file} />
      ) : (
        <p className="p-5 text-soft">Choose a file to look into it.</p>
      )}
    </div>
  )
}

interface LinesProps {
  lines: FileLine[]
  /** Names with the whole path before them. */
  whole: boolean
  chosen: FileLine | null
  open: (line: FileLine) => void
  box: React.RefObject<HTMLElement | null>
}

const LINE_HEIGHT = 30

/** The lines of a folder, of which only those in view are on the page. */
function Lines({ lines, whole, chosen, open, box }: LinesProps) {
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 12,
  })
  return (
    <ul className="relative" style={{ height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map(({ index, start }) => {
        const line = lines[index]
        if (!line) return null
        return (
          <li
            key={`${line.domain}/${line.path}`}
            className="absolute inset-x-0 border-b border-rule"
            style={{ top: start, height: LINE_HEIGHT }}
          >
            <button
              type="button"
              onClick={() => open(line)}
              aria-current={line === chosen ? 'true' : undefined}
              className="grid w-full grid-cols-[minmax(0,1fr)_6rem_8.5rem] gap-3 px-1 py-1 text-left hover:bg-sunk aria-[current]:bg-wash"
            >
              <span className="truncate" title={`${line.domain}/${line.path}`}>
                {whole ? `${line.domain}/${line.path}` : line.name}
              </span>
              <span className="text-right text-soft">{formatBytes(line.bytes)}</span>
              <span className="text-soft">
                {line.kind === 'folder' ? plural(line.files, 'file') : <Moment at={line.modifiedAt} />}
              </span>
            </button>
          </li>
        )
      })}
    </ul>
  )
}

interface Place {
  domain: string
  folder: string
}

function Steps({ place, go }: { place: Place; go: (place: Place) => void }) {
  const parts = place.folder === '' ? [] : place.folder.split('/')
  const steps = [
    { name: 'All domains', place: { domain: '', folder: '' } },
    ...(place.domain ? [{ name: place.domain, place: { domain: place.domain, folder: '' } }] : []),
    ...parts.map((name, i) => ({ name, place: { domain: place.domain, folder: parts.slice(0, i + 1).join('/') } })),
  ]
  return (
    <nav aria-label="Path" className="flex min-w-0 flex-wrap gap-x-1">
      {steps.map((step, i) => (
        <span key={`${step.place.domain}/${step.place.folder}`}>
          <button type="button" className="text-accent underline" onClick={() => go(step.place)}>
            {step.name}
          </button>
          {i < steps.length - 1 && <span className="text-soft"> /</span>}
        </span>
      ))}
    </nav>
  )
}
