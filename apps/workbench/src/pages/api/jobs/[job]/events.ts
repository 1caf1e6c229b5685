import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { jobProgress } from '../../../../services/progress.js'

const EVERY_MS = 400

/** Server-sent events: the job's reads, handovers and counts, each time that something of them changed. */
export const GET = route(async ({ params }) => {
  const id = requireId(params.job)
  let timer: ReturnType<typeof setTimeout> | undefined
  let last = ''
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const tell = async () => {
        const text = JSON.stringify(await jobProgress(database(), id))
        if (text !== last) controller.enqueue(new TextEncoder().encode(`data: ${text}\n\n`))
        last = text
      }
      const again = () => {
        timer = setTimeout(
          () =>
            tell()
              .catch(() => {})
              .finally(() => timer && again()),
          EVERY_MS,
        )
      }
      tell().catch(() => {})
      again()
    },
    // The request's own signal fires in the build only; this does in both.
    cancel() {
      clearTimeout(timer)
      timer = undefined
    },
  })
  return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } })
})
