import type { IntegrityReport } from '../backup/integrity.js'
import type { SourceInfo } from '../backup/types.js'
import { escapeHtml, page } from './html.js'

/** The check of a source as a page of its own, to be kept or printed. */
export function integrityPage(info: SourceInfo, report: IntegrityReport): string {
  const title = `Integrity of ${info.deviceName ?? 'a backup'}`
  const rows = report.flawed
    .map(
      ({ domain, path, why }) =>
        `<tr><td><code>${escapeHtml(`${domain}/${path}`)}</code></td><td>${escapeHtml(why)}</td></tr>`,
    )
    .join('\n')
  const flaws =
    rows === '' ? '' : `<h2>Not whole</h2><table><tr><th>File</th><th>What is wrong</th></tr>${rows}</table>`
  return page(
    title,
    `<h1>${escapeHtml(title)}</h1>
<p class="soft">${escapeHtml(info.path)}, state of ${escapeHtml(info.takenAt?.toISOString() ?? 'an unknown date')}. Checked ${escapeHtml(report.checkedAt)}; contents were not read.</p>
<table><tr><td>Files</td><td class="n">${report.files}</td></tr><tr><td>whole</td><td class="n">${report.whole}</td></tr>
<tr><td>Bytes</td><td class="n">${report.bytes}</td></tr><tr><td>Folders</td><td class="n">${report.folders}</td></tr>
<tr><td>Links</td><td class="n">${report.links}</td></tr><tr><td>Contents that no entry names</td><td class="n">${report.strays}</td></tr></table>
${flaws}`,
  )
}
