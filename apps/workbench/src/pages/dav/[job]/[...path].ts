import { answerDav } from '../../../server/dav.js'
import { parameter } from '../../../server/fulfil.js'
import { pageDatabase } from '../../../server/page.js'
import { route } from '../../../server/respond.js'
import { mayEnter } from '../../../services/share.js'

export const ALL = route(async ({ params, request }) => {
  const job = parameter('job', params.job)
  if (!mayEnter(job, request.headers.get('authorization')))
    return new Response('The network folder is closed, or the name or password is wrong.', {
      status: 401,
      headers: { 'www-authenticate': 'Basic realm="Lumbrin", charset="UTF-8"' },
    })
  const path = (params.path ?? '').split('/').filter((part) => part !== '')
  return answerDav(pageDatabase(), job, request, `/dav/${job}/`, path)
})
