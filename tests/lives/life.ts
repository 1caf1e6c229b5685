import type { Random } from '@lumbrin/standins/random'

/** Kinds of item that a simulated life has, and what each can do. */
export const LIFE_CATEGORIES = [
  'messages',
  'contacts',
  'notes',
  'calls',
  'events',
  'photos',
  'voice-memos',
  'bookmarks',
] as const
export type LifeCategory = (typeof LIFE_CATEGORIES)[number]

const WITH_BIN: readonly LifeCategory[] = ['messages', 'photos', 'voice-memos']
const WITH_EDITS: readonly LifeCategory[] = ['contacts', 'notes', 'events', 'bookmarks']

export const DAY = 86_400_000
export const BEGIN = Date.UTC(2026, 0, 1)
/** Days that a life goes on for. */
export const SPAN = 300

/** What happens to an item, in days since the life began. */
export interface ItemEvent {
  day: number
  kind: 'made' | 'edited' | 'binned' | 'restored' | 'deleted'
}

/** One item of somebody's, on the devices on which it lives. */
export interface LifeItem {
  /** A word that is in no other item. */
  token: string
  uuid: string
  number: number
  category: LifeCategory
  /** What happens to it on each device, by the device's position. */
  events: Map<number, ItemEvent[]>
}

export interface LifeDevice {
  udid: string
  serial: string
  name: string
  role: 'brief' | 'owner' | 'other'
}

/** Months of items being made, edited, put into bins and deleted, on one device or several. */
export interface Life {
  seed: number
  devices: LifeDevice[]
  items: LifeItem[]
}

/** How an item stands on a device at the end of a day. */
export interface ItemState {
  condition: 'live' | 'binned'
  edits: number
  binnedDay: number | null
}

export function makeLife(random: Random, seed: number): Life {
  const devices: LifeDevice[] = [{ udid: random.uuid(), serial: `S${seed}A`, name: `Phone ${seed}`, role: 'brief' }]
  if (random.chance(0.5))
    devices.push({ udid: random.uuid(), serial: `S${seed}B`, name: `Tablet ${seed}`, role: 'owner' })
  if (random.chance(0.3))
    devices.push({ udid: random.uuid(), serial: `S${seed}C`, name: `Guest ${seed}`, role: 'other' })
  const categories = LIFE_CATEGORIES.filter(() => random.chance(0.45))
  if (categories.length === 0) categories.push(random.pick(LIFE_CATEGORIES))
  const items: LifeItem[] = []
  for (const category of categories)
    for (let i = random.int(3, 9); i > 0; i--) items.push(makeItem(random, category, items.length, devices))
  return { seed, devices, items }
}

function makeItem(random: Random, category: LifeCategory, number: number, devices: LifeDevice[]): LifeItem {
  const events = new Map<number, ItemEvent[]>()
  const home = random.chance(0.75) ? 0 : random.int(0, devices.length - 1)
  events.set(home, story(random, category))
  // Some things are synced: they live on two devices, and have a fate of their own on each.
  if (devices.length > 1 && random.chance(0.3)) events.set((home + 1) % devices.length, story(random, category))
  return { token: `tok${number}x${random.int(1000, 9999)}`, uuid: random.uuid(), number, category, events }
}

function story(random: Random, category: LifeCategory): ItemEvent[] {
  const events: ItemEvent[] = [{ day: random.int(0, SPAN - 60), kind: 'made' }]
  const later = () => (events.at(-1)?.day ?? 0) + random.int(1, 70)
  if (WITH_EDITS.includes(category) && random.chance(0.4)) events.push({ day: later(), kind: 'edited' })
  if (WITH_BIN.includes(category) && random.chance(0.35)) {
    events.push({ day: later(), kind: 'binned' })
    if (random.chance(0.3)) events.push({ day: later(), kind: 'restored' })
    else if (random.chance(0.5)) events.push({ day: later(), kind: 'deleted' })
  }
  if (events.at(-1)?.kind !== 'deleted' && random.chance(0.4)) events.push({ day: later(), kind: 'deleted' })
  return events
}

/** Undefined: it is not there, or not any more. */
export function stateOn(item: LifeItem, device: number, day: number): ItemState | undefined {
  let state: ItemState | undefined
  for (const event of item.events.get(device) ?? []) {
    if (event.day > day) break
    if (event.kind === 'made') state = { condition: 'live', edits: 0, binnedDay: null }
    else if (!state) continue
    else if (event.kind === 'edited') state = { ...state, edits: state.edits + 1 }
    else if (event.kind === 'binned') state = { ...state, condition: 'binned', binnedDay: event.day }
    else if (event.kind === 'restored') state = { ...state, condition: 'live', binnedDay: null }
    else state = undefined
  }
  return state
}

/** True if it ever was on the device by then. */
export const everThere = (item: LifeItem, device: number, day: number): boolean =>
  (item.events.get(device) ?? []).some(({ kind, day: at }) => kind === 'made' && at <= day)
