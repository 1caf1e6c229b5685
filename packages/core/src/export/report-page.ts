import { STANDINGS } from '../findings/standing.js'
import { linkTo } from './attached.js'
import { escapeHtml, page } from './html.js'
import { contentRows, type Letterhead, MEANING, problemsHead, type ReadLine, type Report } from './report.js'

/** The page for the owner: what is in the package, how it stands, what could not be had, and how to check it. */
export function reportPage(report: Report): string {
  const facts = report.facts.map(([label, value]) => `<tr><th>${label}</th><td>${escapeHtml(value)}</td></tr>`)
  const [head = [], ...rows] = contentRows(report)
  const cells = (tag: string, row: readonly string[]) =>
    row.map((cell, i) => `<${tag}${i > 0 ? ' class="n"' : ''}>${escapeHtml(cell)}</${tag}>`).join('')
  return page(
    report.title,
    `${report.shop ? letterhead(report.shop) : ''}<h1>${report.title}</h1>
<p class="soft">Written ${report.writtenAt}</p>
<table>${facts.join('')}</table>
${report.reads.length > 0 ? `<h2>What was done</h2>${report.reads.map(readOf).join('')}` : ''}
<h2>What was found</h2>
<table><tr>${cells('th', head)}</tr>${rows.map((row) => `<tr>${cells('td', row)}</tr>`).join('')}</table>
<p class="soft">${STANDINGS.map((standing) => `<b>${standing}</b>: ${MEANING[standing]}`).join(' · ')}</p>
${sheet(report)}${listOf('What is not whole, or not sure', report.uncertain)}${listOf('What was not found, and why', report.notHad)}${listOf(problemsHead(report), report.problems)}
<h2>How to check this package</h2>
${report.check.map((words) => `<p>${escapeHtml(words)}</p>`).join('')}`,
  )
}

function letterhead({ name, address, mark }: Letterhead): string {
  const kind = mark?.[0] === 0x89 ? 'png' : 'jpeg'
  const picture = mark
    ? `<img src="data:image/${kind};base64,${Buffer.from(mark).toString('base64')}" alt="" style="float:right;max-height:5rem;max-width:12rem">`
    : ''
  const lines = address.split('\n').map(escapeHtml).join('<br>')
  return `<div style="overflow:auto;margin-bottom:2rem">${picture}<b>${escapeHtml(name)}</b><br>${lines}</div>\n`
}

function readOf({ source, takenAt, looked, gaps, checksum }: ReadLine): string {
  const list = gaps.length > 0 ? `<ul>${gaps.map((gap) => `<li>${escapeHtml(gap)}</li>`).join('')}</ul>` : ''
  const state = takenAt === null ? '' : `, as it was on ${takenAt}`
  return `<p><b>${escapeHtml(source)}</b>${escapeHtml(state)}. ${escapeHtml(looked)}</p>${list}${checksum === null ? '' : `<p class="soft">${escapeHtml(checksum)}</p>`}`
}

function sheet({ pictures }: Report): string {
  if (pictures.length === 0) return ''
  const tiles = pictures.map(
    ({ place, alt }) =>
      `<img src="${escapeHtml(linkTo(place))}" alt="${escapeHtml(alt)}" style="width:6.5rem;height:6.5rem;object-fit:cover">`,
  )
  return `<h2>Some of the pictures</h2><p style="display:flex;flex-wrap:wrap;gap:.4rem">${tiles.join('')}</p>`
}

const listOf = (head: string, lines: readonly string[]): string =>
  lines.length === 0 ? '' : `<h2>${head}</h2><ul>${lines.map((line) => `<li>${escapeHtml(line)}</li>`).join('')}</ul>`
