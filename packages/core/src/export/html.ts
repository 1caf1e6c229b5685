import { shownText } from './plain-text.js'

/** Text for use in HTML, in elements and in attributes. */
export function escapeHtml(text: string): string {
  return shownText(text).replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`)
}

const STYLE = `
:root{color-scheme:light dark;--paper:#faf7f0;--ink:#17251f;--soft:#5b665f;--line:#d9d3c5;--in:#efe9db;--out:#dce8df}
@media(prefers-color-scheme:dark){:root{--paper:#141a17;--ink:#e9e6dc;--soft:#a3aca5;--line:#333c37;--in:#232b27;--out:#1d3a2d}}
body{margin:0 auto;max-width:44rem;padding:2rem 1rem;background:var(--paper);color:var(--ink);font:16px/1.5 system-ui,sans-serif}
h1{font-size:1.5rem;margin:0}h2{font-size:1rem;margin:2rem 0 .5rem;border-bottom:1px solid var(--line);padding-bottom:.25rem}
.soft{color:var(--soft)}table{border-collapse:collapse;width:100%}th,td{text-align:left;padding:.3rem .6rem .3rem 0;border-bottom:1px solid var(--line)}
td.n,th.n{text-align:right;font-variant-numeric:tabular-nums}a{color:inherit}code{font-size:.9em}
.m{max-width:80%;margin:.35rem 0;padding:.5rem .75rem;border-radius:.6rem;background:var(--in);overflow-wrap:anywhere;white-space:pre-wrap}
.m.out{margin-left:auto;background:var(--out)}.m small{display:block;color:var(--soft);white-space:normal}.m img{max-width:100%;display:block}
.lost{outline:1px dashed var(--soft)}`

/** A self-contained page; `body` is HTML already, `title` is text. Scripts and outside content are shut out. */
export function page(title: string, body: string): string {
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; img-src 'self' file: data:; media-src 'self' file:">
<title>${escapeHtml(title)}</title><style>${STYLE}</style></head><body>
${body}
</body></html>
`
}
