import { openKeychainItem } from '../../backup/keychain.js'
import { readEntry } from '../../backup/open.js'
import type { SourceEntry, SourceTree } from '../../backup/types.js'
import { FormatError, messageOf } from '../../io/errors.js'
import { isDict, type PlistValue, parsePlistDict } from '../../plist/read.js'
import { fileOrigin } from '../open.js'
import type { Category, Json, ReadContext, Sighting } from '../types.js'
import { type Attributes, attributesOf, attributeText } from './attributes.js'
import { credentialsDefinition } from './definition.js'
import { credentialFields } from './fields.js'

const PLACE = { domain: 'KeychainDomain', path: 'keychain-backup.plist' }
const MOST_BYTES = 32 << 20
/** Lists of the file that hold passwords, and what they are for. */
const LISTS = { genp: 'application', inet: 'internet' } as const
type ListName = keyof typeof LISTS

/** Passwords that the owner saved. Only a backup with a password holds them in a form that can be opened. */
export const credentials: Category = {
  ...credentialsDefinition,
  fields: credentialFields,
  stores: [PLACE],
  holds: ({ domain, path }) => domain === PLACE.domain && path === PLACE.path,
  read: readCredentials,
  identity: ({ fields }) =>
    `${fields.kind}:${JSON.stringify([fields.server, fields.service, fields.account, fields.accessGroup, fields.port])}`,
}

async function* readCredentials({ tree, pass, report }: ReadContext): AsyncGenerator<Sighting> {
  if (pass !== 'live') return
  const entry = tree.find(PLACE.domain, PLACE.path)
  // Without a password they are locked to the device, which the read says of every category that it cannot have.
  if (!entry || !tree.info.encrypted) return
  let closed = 0
  for (const { at, item } of await itemsOf(tree, entry, report)) {
    const attributes = opened(item, tree)
    if (attributes) yield credential(at, attributes, entry)
    else closed++
  }
  if (closed > 0)
    report({
      code: 'items-locked',
      message: `${closed} saved passwords are of a class that only the device itself opens, or are damaged.`,
      path: entry.path,
    })
}

/** A saved password by its place in the list, such as "genp/3". Undefined: it is not there, or does not open. */
export async function revealSecret(tree: SourceTree, place: string): Promise<string | undefined> {
  const entry = tree.find(PLACE.domain, PLACE.path)
  const found = entry && (await itemsOf(tree, entry, () => {})).find(({ at }) => at === place)
  const attributes = found && opened(found.item, tree)
  return (attributes && attributeText(attributes, 'v_Data')) ?? undefined
}

async function itemsOf(
  tree: SourceTree,
  entry: SourceEntry,
  report: ReadContext['report'],
): Promise<{ at: string; item: { [key: string]: PlistValue } }[]> {
  try {
    const bytes = await readEntry(tree, entry, MOST_BYTES)
    const lists = bytes ? parsePlistDict(bytes) : {}
    return (Object.keys(LISTS) as ListName[]).flatMap((name) => {
      const list = lists[name]
      return Array.isArray(list) ? list.flatMap((item, i) => (isDict(item) ? [{ at: `${name}/${i}`, item }] : [])) : []
    })
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    report({ code: 'store-damaged', message: `${entry.path} cannot be read: ${messageOf(thrown)}.`, path: entry.path })
    return []
  }
}

/** The attributes of an item; older versions keep all but the secret beside the locked part. */
function opened(item: { [key: string]: PlistValue }, tree: SourceTree): Attributes | undefined {
  const locked = item.v_Data
  const plain =
    locked instanceof Uint8Array
      ? openKeychainItem(locked, (protection, wrapped) => tree.unwrap(protection, wrapped))
      : undefined
  if (!plain) return undefined
  if (typeof item.acct === 'string') {
    const beside = Object.entries(item).filter(([name, value]) => name !== 'v_Data' && typeof value === 'string')
    return new Map<string, string | Uint8Array>([...(beside as [string, string][]), ['v_Data', plain]])
  }
  try {
    return attributesOf(plain)
  } catch (thrown) {
    if (thrown instanceof FormatError) return undefined
    throw thrown
  }
}

function credential(at: string, attributes: Attributes, { domain, path }: SourceEntry): Sighting {
  const text = (name: string) => attributeText(attributes, name) || null
  const date = (name: string) => {
    const value = attributes.get(name)
    return value instanceof Date && !Number.isNaN(value.getTime()) ? value.toISOString() : null
  }
  const kind = LISTS[at.split('/', 1)[0] as ListName]
  const place = text('srvr') ?? text('svce') ?? text('labl')
  const fields: { [key: string]: Json } = {
    kind,
    account: text('acct'),
    service: text('svce'),
    server: text('srvr'),
    port: attributes.get('port') ? Number(attributes.get('port')) : null,
    protocol: text('ptcl'),
    label: text('labl'),
    note: text('desc'),
    accessGroup: text('agrp'),
    createdAt: date('cdat'),
    modifiedAt: date('mdat'),
    // The secret itself stays in the source until someone asks for it.
    secretAt: at,
    hasSecret: attributes.has('v_Data'),
  }
  return {
    category: 'credentials',
    condition: attributes.get('tomb') === 1 ? 'partial' : 'live',
    when: date('mdat') ?? date('cdat'),
    title: place ?? 'Without a name',
    text: text('acct'),
    fields,
    content: null,
    origin: fileOrigin({ domain, path }, at.split('/', 1)[0] as string),
    missing: [],
    confidence: 1,
  }
}
