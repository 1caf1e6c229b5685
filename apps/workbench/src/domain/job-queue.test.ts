import { describe, expect, it } from 'vitest'
import { emptyBrief } from './brief.js'
import { byUrgency, lineOf } from './job-queue.js'
import type { JobStage } from './job-stages.js'

const NOW = new Date('2026-12-01T09:00:00Z')

const job = (part: object, brief: object = {}) =>
  lineOf(
    {
      id: 1 as never,
      number: '2026-0001-TEST',
      uid: 'u',
      owner: 'Odile Varga',
      brief: { ...emptyBrief(), owner: 'Odile Varga', ...brief },
      timeZone: 'UTC',
      timeZoneOf: 'computer',
      createdAt: new Date('2026-11-20T00:00:00Z'),
      purgedAt: null,
      sources: 1,
      findings: 9,
      reading: 0,
      tray: 0,
      handovers: 0,
      ...part,
    },
    NOW,
  )

describe('the stage of a job', () => {
  it.each<[object, JobStage]>([
    [{ sources: 0, findings: 0 }, 'no-source'],
    [{ findings: 0 }, 'unread'],
    [{ reading: 1 }, 'reading'],
    [{}, 'to-look-through'],
    [{ tray: 2 }, 'to-hand-over'],
    [{ tray: 2, handovers: 1 }, 'handed-over'],
    [{ createdAt: new Date('2026-10-01T00:00:00Z') }, 'to-purge'],
    [{ purgedAt: NOW }, 'purged'],
  ])('%j: %s', (part, stage) => {
    expect(job(part).stage).toBe(stage)
  })

  it('is overdue only while its owner waits', () => {
    expect(job({}, { dueOn: '2026-11-30' }).overdue).toBe(true)
    expect(job({}, { dueOn: '2026-12-01' }).overdue).toBe(false)
    expect(job({ handovers: 1 }, { dueOn: '2026-11-30' }).overdue).toBe(false)
  })
})

it('has what is overdue first, then what is due, and what is closed last', () => {
  const lines = [
    job({ id: 1 }),
    job({ id: 2, handovers: 1 }, { dueOn: '2026-11-25' }),
    job({ id: 3 }, { dueOn: '2026-12-03' }),
    job({ id: 4 }, { dueOn: '2026-11-29' }),
    job({ id: 5 }),
  ]
  expect(lines.sort(byUrgency).map(({ id }) => id)).toEqual([4, 3, 5, 1, 2])
})
