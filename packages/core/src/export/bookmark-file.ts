import type { HandoverItem } from './format.js'
import { escapeHtml } from './html.js'
import { SingleFileWriter } from './single-file.js'

const HARMLESS = /^(https?|ftp|mailto|tel|sms|feed|webcal):/i

/** Bookmarks in the file that every browser reads (Netscape bookmark file, a common practice without a standard). */
export class BookmarkFileWriter extends SingleFileWriter {
  protected readonly ending = 'html'
  #folder: string | null = null

  protected head(): string {
    return '<!DOCTYPE NETSCAPE-Bookmark-file-1>\n<META HTTP-EQUIV="Content-Type" CONTENT="text/html; charset=UTF-8">\n<TITLE>Bookmarks</TITLE>\n<H1>Bookmarks</H1>\n<DL><p>\n'
  }

  protected foot(): string {
    return `${this.#folder === null ? '' : '</DL><p>\n'}</DL><p>\n`
  }

  protected item({ sighting }: HandoverItem): string {
    const { fields, title, when } = sighting
    const url = typeof fields.url === 'string' ? fields.url : ''
    const folder = typeof fields.folder === 'string' ? fields.folder : null
    const added = when ? ` ADD_DATE="${Math.floor(Date.parse(when) / 1000)}"` : ''
    // A link that runs a script would run it at whoever opens the file: its address is kept as words.
    const [link, words] = HARMLESS.test(url) ? [url, title] : ['about:blank', `${title} (${url})`]
    return `${this.#turnTo(folder)}<DT><A HREF="${escapeHtml(link)}"${added}>${escapeHtml(words)}</A>\n`
  }

  /** Items come in any order: a folder begins again where it is met again. */
  #turnTo(folder: string | null): string {
    if (folder === this.#folder) return ''
    const close = this.#folder === null ? '' : '</DL><p>\n'
    this.#folder = folder
    return folder === null ? close : `${close}<DT><H3>${escapeHtml(folder)}</H3>\n<DL><p>\n`
  }
}
