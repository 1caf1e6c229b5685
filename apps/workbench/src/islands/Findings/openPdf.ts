import type { PDFDocumentProxy } from 'pdfjs-dist'

// A document that is made to take for ever is given up; what it is made of runs in a worker, which ends then.
const MOST_MS = 20_000

/**
 * A PDF document at an address of this server, of which only the pieces that are needed are fetched. Scripts and forms
 * of it are not run.
 * @throws Error with words for the person who looks at it
 */
export async function openPdf(address: string, signal: AbortSignal): Promise<PDFDocumentProxy> {
  // Half a megabyte of code, for those who look at a document.
  const [pdf, { default: worker }, { ShippedFonts }] = await Promise.all([
    import('pdfjs-dist'),
    import('pdfjs-dist/build/pdf.worker.min.mjs?url'),
    import('./pdfFonts'),
  ])
  signal.throwIfAborted()
  pdf.GlobalWorkerOptions.workerSrc = worker
  const task = pdf.getDocument({
    url: address,
    disableAutoFetch: true,
    disableStream: true,
    enableXfa: false,
    isEvalSupported: false,
    StandardFontDataFactory: ShippedFonts,
    useWorkerFetch: false,
    useSystemFonts: false,
    verbosity: 0,
  })
  const end = () => void task.destroy()
  signal.addEventListener('abort', end)
  const timer = setTimeout(end, MOST_MS)
  try {
    return await task.promise
  } catch (thrown) {
    throw new Error(
      (thrown as Error).name === 'PasswordException'
        ? 'The document is locked with a password of its own.'
        : 'The document is damaged, and cannot be shown here.',
      { cause: thrown },
    )
  } finally {
    clearTimeout(timer)
  }
}
