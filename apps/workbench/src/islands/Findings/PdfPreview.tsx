import { ChevronLeft, ChevronRight } from 'lucide-react'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { useEffect, useRef, useState } from 'react'
import { contentAddress } from '../../components/addresses'
import { Failure } from '../../components/Failure.js'
import type { FindingLine } from '../../domain/finding'
import { openPdf } from './openPdf'
import { scaleOf } from './pdfScale'

/** A document, page by page. Its pages are drawn from the pieces of the file that they need. */
export function PdfPreview({ line }: { line: FindingLine }) {
  const address = contentAddress(line.id)
  const { opened, failed } = usePdf(address)
  const [page, setPage] = useState(1)
  return (
    <div className="mt-4">
      <Failure>{failed}</Failure>
      {!failed && !opened && <p className="text-soft">Opening the document…</p>}
      {opened && (
        <>
          <Page document={opened} number={page} title={line.title} />
          <div className="mt-2 flex items-center gap-2">
            <button
              type="button"
              className="button"
              aria-label="Page before"
              disabled={page <= 1}
              onClick={() => setPage(page - 1)}
            >
              <ChevronLeft size={16} aria-hidden />
            </button>
            <output className="text-sm text-soft">
              Page {page} of {opened.numPages}
            </output>
            <button
              type="button"
              className="button"
              aria-label="Page after"
              disabled={page >= opened.numPages}
              onClick={() => setPage(page + 1)}
            >
              <ChevronRight size={16} aria-hidden />
            </button>
          </div>
        </>
      )}
      <a className="button mt-2 inline-block" href={address} target="_blank" rel="noreferrer">
        Open the document
      </a>
    </div>
  )
}

function usePdf(address: string) {
  const [opened, setOpened] = useState<PDFDocumentProxy>()
  const [failed, setFailed] = useState<string>()
  useEffect(() => {
    const stop = new AbortController()
    openPdf(address, stop.signal).then(setOpened, (thrown: Error) => !stop.signal.aborted && setFailed(thrown.message))
    return () => stop.abort()
  }, [address])
  return { opened, failed }
}

/** A page that takes longer than this to draw is made to take for ever. */
const LONGEST_DRAWING_MS = 20_000

function Page({ document, number, title }: { document: PDFDocumentProxy; number: number; title: string }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const [failed, setFailed] = useState(false)
  useEffect(() => {
    let stop = () => {}
    let stopped = false
    const draw = async () => {
      const page = await document.getPage(number)
      const target = canvas.current
      const context = target?.getContext('2d')
      if (stopped || !target || !context) return
      const { width, height } = page.getViewport({ scale: 1 })
      const viewport = page.getViewport({ scale: scaleOf(width, height, target.clientWidth, devicePixelRatio) })
      target.width = Math.max(1, Math.floor(viewport.width))
      target.height = Math.max(1, Math.floor(viewport.height))
      const task = page.render({ canvasContext: context, viewport })
      const timer = setTimeout(() => task.cancel(), LONGEST_DRAWING_MS)
      stop = () => {
        clearTimeout(timer)
        task.cancel()
      }
      await task.promise.finally(() => clearTimeout(timer))
    }
    setFailed(false)
    draw().catch(() => !stopped && setFailed(true))
    return () => {
      stopped = true
      stop()
    }
  }, [document, number])
  return (
    <>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${title}, page ${number}`}
        className="private w-full rounded-sm border border-rule bg-white"
      />
      {failed && (
        <Failure className="mt-2">
          This page of the document is damaged, or takes too long to draw, and cannot be shown.
        </Failure>
      )}
    </>
  )
}
