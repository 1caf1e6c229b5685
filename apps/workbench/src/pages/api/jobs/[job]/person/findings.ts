import { fulfil } from '../../../../../server/fulfil.js'
import { findingsOfPerson } from '../../../../../services/people.js'

export const GET = fulfil('GET /api/jobs/{job}/person/findings', ({ db, path, query }) => {
  const { name, afterId, afterWhen, ...which } = query
  const behind = afterId === undefined ? null : { id: afterId, when: afterWhen === null ? null : new Date(afterWhen) }
  return findingsOfPerson(db, path.job, name, { ...which, behind })
})
