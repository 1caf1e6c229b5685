import { linkTo } from '../attached.js'
import type { PartStarts } from '../bag-types.js'
import { escapeHtml } from '../html.js'
import { SITE } from './parts.js'
import { LAID_TOGETHER, type SiteStart } from './shapes.js'

/** Nothing but the package's own files: whatever a text of the owner's holds, it starts nothing and asks nobody. */
const POLICY =
  "default-src 'none'; script-src 'self' file:; style-src 'self' file:; img-src 'self' file: data:; media-src 'self' file:; font-src data:; base-uri 'none'; form-action 'none'"

/**
 * The page at the top of a package. As it stands it leads to pages that need no script; where scripts run they take its
 * place.
 */
export function startPage(start: SiteStart, { fonts, parts }: { fonts: boolean; parts: PartStarts }): string {
  const { title, facts, kinds, writtenAt, zone, notHad } = start
  const inParts = parts.length > 0
  const lines = kinds.map(({ label, from, to, lost, plain }) => {
    const words = `${to - from}${lost > 0 ? `, of which ${lost} were lost` : ''}`
    return `<li><a href="${escapeHtml(linkTo(plain))}">${escapeHtml(label)}</a> ${words}</li>`
  })
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="${POLICY}">
<title>${escapeHtml(title)}</title>
<link rel="stylesheet" href="data/${SITE}/site.css">
${fonts ? `<link rel="stylesheet" href="data/${SITE}/fonts.css">\n` : ''}<script defer src="data/${SITE}/site.js"></script>
</head>
<body>
<div id="site"${inParts ? ` data-parts="${escapeHtml(asciiJson(parts))}"` : ''}>
<main class="plain">
<h1>${escapeHtml(title)}</h1>
<p>Written ${escapeHtml(writtenAt)}. Times are those of ${escapeHtml(zone)}.</p>
${inParts ? `<p>This package came in ${parts.length} parts. ${LAID_TOGETHER}</p>\n` : ''}<dl>${facts.map(([label, value]) => `<dt>${escapeHtml(label)}</dt><dd>${escapeHtml(value)}</dd>`).join('')}</dl>
<h2>What is in this package</h2>
<ul>
${lines.join('\n')}
</ul>
${notHad.length > 0 ? `<h2>What was not found, and why</h2><ul>${notHad.map((line) => `<li>${escapeHtml(line)}</li>`).join('')}</ul>` : ''}
<p>The <a href="data/report.html">report</a> says more, and how this package is checked; the same <a href="data/report.pdf">for printing</a>. <a href="data/index.csv">All items as a table</a>. <a href="receipt.pdf">A receipt to sign</a>.</p>
</main>
</div>
</body>
</html>
`
}

// Names may hold characters that a page shows as others.
const asciiJson = (value: unknown): string =>
  JSON.stringify(value).replace(/[^ -~]/g, (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`)
