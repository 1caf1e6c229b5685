/** The jobs of the demo: one to play, and others of the same theatre in different states, made through the door that everybody uses. */
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'

const TO_PLAY = {
  owner: 'Odile Varga',
  contact: '+1 202 555 0199',
  device: 'her phone',
  categories: ['photos', 'messages'],
  lostFrom: '2026-10-05',
  lostTo: '2026-11-14',
  people: 'Bram Okafor',
  words: 'stage',
  dueOn: '2026-12-01',
  consent: true,
  notes:
    'Deleted the conversation with her stage carpenter by mistake; the measures of the new folding stage are in it. Some pictures of the autumn tour are gone as well.',
}

const days = (count) => new Date(Date.now() + count * 86_400_000).toISOString().slice(0, 10)

/** The others; `until` says how far the work at each is. */
const OTHERS = [
  {
    until: 'opened',
    brief: {
      owner: 'Bram Okafor',
      contact: '+1 202 555 0100',
      device: 'an old tablet',
      categories: ['videos'],
      lostTo: days(-20),
      dueOn: days(-2),
      deviceState: 'does-not-start',
    },
  },
  {
    until: 'opened',
    brief: {
      owner: 'Mirela Santos',
      contact: 'mirela@theatre.example',
      device: 'her phone',
      categories: ['notes', 'voice-memos'],
      lostFrom: days(-9),
      dueOn: days(6),
    },
  },
  {
    until: 'added',
    brief: { owner: 'Ilse Brandt', contact: 'ilse@theatre.example', categories: ['contacts', 'calls'], dueOn: days(3) },
  },
  {
    until: 'read',
    brief: { owner: 'Tomas Lind', device: 'phone of the box office', categories: ['contacts'], dueOn: days(1) },
  },
  { until: 'read', brief: { owner: 'Noor Haddad', contact: '+1 202 555 0143', categories: ['events', 'contacts'] } },
  {
    until: 'chosen',
    brief: { owner: 'Zoë Lindqvist', contact: 'zoe@theatre.example', categories: ['contacts'], dueOn: days(2) },
  },
  { until: 'handed over', brief: { owner: 'Henri Duval', categories: ['contacts'], dueOn: days(-5), consent: true } },
  { until: 'purged', brief: { owner: 'Ama Boateng', categories: ['photos'] } },
]

const STAGES = ['opened', 'added', 'read', 'chosen', 'handed over']

/** Opens the demo's jobs, once. `ask`: a request with the rights of the launcher. */
export async function openJobs(ask, handovers) {
  const get = async (path) => (await ask(path)).json()
  if ((await get('/api/jobs')).length > 0) return
  const send = async (path, body) => {
    const answer = await ask(path, { method: 'POST', body: JSON.stringify(body) })
    if (!answer.ok) throw new Error(`${path}: ${await answer.text()}`)
    return answer.status === 204 ? null : answer.json()
  }
  const found = await (await ask('/api/backups')).text()
  const { backup } = found
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
    .find((step) => step.backup)
  const add = (id) => send(`/api/jobs/${id}/sources`, { folder: backup.path })
  const { id } = await send('/api/jobs', TO_PLAY)
  await add(id)
  const until = async (holds) => {
    for (let i = 0; i < 300 && !(await holds()); i++) await sleep(200)
  }
  for (const { until: stage, brief } of OTHERS) {
    const job = await send('/api/jobs', brief)
    const lineOf = async () => (await get('/api/jobs')).find((one) => one.id === job.id)
    const reached = (name) => STAGES.indexOf(stage) >= STAGES.indexOf(name)
    if (stage === 'purged') await send(`/api/jobs/${job.id}/purge`, { number: job.number })
    if (!reached('added')) continue
    const source = await add(job.id)
    if (!reached('read')) continue
    await send(`/api/sources/${source.id}/reads`, { categories: ['contacts', 'events'], passes: ['live'] })
    await until(async () => ['to-look-through', 'to-hand-over'].includes((await lineOf()).stage))
    if (!reached('chosen')) continue
    await send(`/api/jobs/${job.id}/tray`, { addMatching: 'category=contacts' })
    if (!reached('handed over')) continue
    await send(`/api/jobs/${job.id}/handovers`, { kind: 'folder', folder: join(handovers, `handover-${job.number}`) })
    await until(async () => (await lineOf()).stage === 'handed-over')
  }
}
