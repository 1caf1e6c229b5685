import { buildBinary } from 'plist'
import { expect, it } from 'vitest'
import { all, madeTree, warnings } from '../../../../../tests/setup/fixtures.js'
import type { Sighting } from '../types.js'
import { webHistory } from './index.js'

const [, , { domain = '', path = '' } = {}] = webHistory.stores
const read = (bytes: Uint8Array, report = warnings()) =>
  all<Sighting>(webHistory.read({ tree: madeTree([[domain, path, bytes]]), pass: 'live', report: report.report }))

it('pages that were visited are read out of the list of older systems', async () => {
  const pages = [
    { '': 'https://stage.example/strings', title: 'Strings', lastVisitedDate: '382100402.7', visitCount: 3 },
    { '': 'https://stage.example/wood', displayTitle: 'Wood & glue', title: 'x', lastVisitedDate: 'never' },
    { title: 'without an address' },
    'no page at all',
  ]
  const found = await read(Buffer.from(buildBinary({ WebHistoryDates: pages, WebHistoryFileVersion: 1 })))
  expect(found).toMatchObject([
    {
      when: '2013-02-09T11:00:02.700Z',
      title: 'Strings',
      text: 'https://stage.example/strings',
      fields: { visits: 3 },
    },
    { when: null, title: 'Wood & glue', fields: { visits: null, visitTimes: [] } },
  ])
  for (const { fields } of found) expect(webHistory.fields.safeParse(fields).success).toBe(true)
  expect(new Set(found.map(webHistory.identity)).size).toBe(2)
})

it('a list that is damaged is told, and gives nothing', async () => {
  const report = warnings()
  expect(await read(Buffer.from('bplist00 and nothing more'), report)).toEqual([])
  expect(report.list.map(({ code }) => code)).toEqual(['store-damaged'])
})
