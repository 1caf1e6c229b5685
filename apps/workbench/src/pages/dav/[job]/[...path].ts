import { answerDav } from '../../../server/dav.js'
import { parameter } from '../../../server/fulfil.js'
import { pageDatabase } from '../../../server/page.js'
import { route } from '../../../server/respond.js'
import { entryOf } from '../../../services/share.js'

export const ALL = route(async ({ params, request }) => {
  const job = parameter('job', params.job)
  const entry = entryOf(job, request.headers.get('authorization'))
  if (entry.state === 'shut')
    return new Response('Too many wrong passwords were tried. The folder opens again by itself; nothing was changed.', {
      status: 429,
      headers: { 'retry-after': String(entry.seconds) },
    })
  if (entry.state === 'wrong')
    return new Response('The network folder is closed, or the name or password is wrong.', {
      status: 401,
      headers: { 'www-authenticate': 'Basic realm="Lumbrin", charset="UTF-8"' },
    })
  const path = (params.path ?? '').split('/').filter((part) => part !== '')
  return answerDav(pageDatabase(), job, request, `/dav/${job}/`, path)
})
