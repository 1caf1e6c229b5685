import { escapeHtml } from '@lumbrin/core/export/html'
import { plainText } from '@lumbrin/core/export/plain-text'
import { DOMParser, type Element } from '@xmldom/xmldom'
import type { Node } from '../services/shared-folder.js'

const DAV = 'DAV:'

/** What a client asks of files and folders (RFC 4918, section 9.1): all there is, the names of it, or some by name. */
export type Asked = 'all' | 'names' | Name[]

interface Name {
  space: string
  name: string
}

// Clients ask for a handful of properties.
const MOST_ASKED = 100

/** The question of a PROPFIND's body; an empty one asks for all. Undefined: it is none. */
export function askedIn(body: string): Asked | undefined {
  if (body.trim() === '') return 'all'
  const root = rootOf(body)
  if (root?.namespaceURI !== DAV || root.localName !== 'propfind') return undefined
  const children = elementsOf(root).filter(({ namespaceURI }) => namespaceURI === DAV)
  const has = (name: string) => children.some(({ localName }) => localName === name)
  const prop = children.find(({ localName }) => localName === 'prop')
  if (has('propname')) return 'names'
  if (has('allprop')) return 'all'
  return prop && elementsOf(prop).slice(0, MOST_ASKED).map(nameOf)
}

function rootOf(body: string): Element | null {
  try {
    // What is wrong with it is told to whoever asked, and to nobody else.
    return new DOMParser({ onError: () => {} }).parseFromString(body, 'text/xml').documentElement
  } catch {
    return null
  }
}

const elementsOf = (parent: Element): Element[] =>
  [...parent.childNodes].filter((child): child is Element => child.nodeType === child.ELEMENT_NODE)

const nameOf = ({ namespaceURI, localName, nodeName }: Element): Name => ({
  space: namespaceURI ?? '',
  name: localName ?? nodeName,
})

/** The properties that a file or folder has (RFC 4918, section 15), each with what stands in it. */
function propertiesOf({ name, kind, bytes, modifiedAt, mime, finding }: Node): Map<string, string> {
  const properties = new Map([
    ['displayname', escapeHtml(plainText(name))],
    ['resourcetype', kind === 'folder' ? '<D:collection/>' : ''],
  ])
  if (bytes !== undefined) properties.set('getcontentlength', String(bytes))
  if (mime) properties.set('getcontenttype', escapeHtml(plainText(mime)))
  if (modifiedAt) properties.set('getlastmodified', modifiedAt.toUTCString())
  if (finding !== undefined) properties.set('getetag', `"${finding}-${bytes}"`)
  return properties
}

/** The answer for one file or folder: what was asked for and is there, and what is not. */
export function responseOf(href: string, node: Node, asked: Asked): string {
  const there = propertiesOf(node)
  const wanted = Array.isArray(asked) ? asked : [...there.keys()].map((name) => ({ space: DAV, name }))
  const isThere = ({ space, name }: Name) => space === DAV && there.has(name)
  const found = wanted
    .filter(isThere)
    .map(({ name }) => (asked === 'names' ? `<D:${name}/>` : `<D:${name}>${there.get(name)}</D:${name}>`))
  const missing = wanted
    .filter((one) => !isThere(one))
    .map(({ space, name }) => `<${name} xmlns="${escapeHtml(space)}"/>`)
  const parts = [part(found, '200 OK'), part(missing, '404 Not Found')].filter((text) => text !== '')
  // Where nothing was asked for there is nothing to answer, and yet one part there has to be.
  return `<D:response><D:href>${escapeHtml(href)}</D:href>${parts.join('') || part([''], '200 OK')}</D:response>`
}

const part = (properties: readonly string[], status: string): string =>
  properties.length === 0
    ? ''
    : `<D:propstat><D:prop>${properties.join('')}</D:prop><D:status>HTTP/1.1 ${status}</D:status></D:propstat>`
