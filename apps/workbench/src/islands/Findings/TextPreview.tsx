import { useQuery } from '@tanstack/react-query'
import { contentAddress } from '../../components/addresses'
import { Failure } from '../../components/Failure.js'
import { Scroller } from '../../components/Scroller'
import type { FindingLine } from '../../domain/finding'
import { formatBytes } from '../../domain/format'

// What a person reads at a glance; the rest is in the file.
const MOST_BYTES = 64 << 10

const TEXTS = /^(text\/|application\/(json|xml|x-subrip)\b)/

/** True for kinds of files that are read as plain text. */
export const isPlainText = (mime: string): boolean => TEXTS.test(mime) && !mime.startsWith('text/html')

/** The beginning of a text file. */
export function TextPreview({ line }: { line: FindingLine }) {
  const { data, error, isLoading } = useQuery({
    queryKey: ['beginning', line.id],
    queryFn: async ({ signal }) => {
      const answer = await fetch(contentAddress(line.id), {
        signal,
        headers: { range: `bytes=0-${MOST_BYTES - 1}` },
      })
      if (!answer.ok) throw new Error('Its content could not be read.')
      return textOf(new Uint8Array(await answer.arrayBuffer()))
    },
  })
  if (isLoading) return <p className="mt-4 text-soft">Opening…</p>
  if (error) return <Failure className="mt-4">{error.message}</Failure>
  return (
    <>
      <Scroller label="Beginning of the file" className="private mt-4 max-h-96 overflow-auto rounded-sm bg-sunk p-3">
        <pre className="text-sm break-words whitespace-pre-wrap">{data || 'The file is empty.'}</pre>
      </Scroller>
      {line.bytes > MOST_BYTES && (
        <p className="mt-1 text-sm text-soft">
          The first {formatBytes(MOST_BYTES)} of {formatBytes(line.bytes)}.
        </p>
      )}
    </>
  )
}

/** Bytes as text: UTF-16 where a mark says so, UTF-8 where they are, otherwise a byte a letter. */
export function textOf(bytes: Uint8Array): string {
  const [first, second] = bytes
  if (first === 0xff && second === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (first === 0xfe && second === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  try {
    // As part of a stream: the beginning of a file may end within a letter.
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: true })
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}
