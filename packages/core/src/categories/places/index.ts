import { photos, videos } from '../photos/index.js'
import type { Category, Condition, ReadContext, Sighting } from '../types.js'
import { placesDefinition } from './definition.js'
import { placeFields } from './fields.js'

// Three decimals of a degree are some hundred metres: pictures of one evening at one place fall together.
const DECIMALS = 3

interface Visit {
  latitude: number
  longitude: number
  dates: string[]
  pictures: string[]
  condition: Condition
  first: Sighting
}

/** Where pictures and films were taken, near ones together. */
export const places: Category = {
  ...placesDefinition,
  fields: placeFields,
  stores: [],
  holds: () => false,
  async *read(context: ReadContext) {
    const visits = new Map<string, Visit>()
    for (const category of [photos, videos])
      for await (const sighting of category.read(context)) gather(visits, sighting)
    for (const visit of visits.values()) yield placeSighting(visit)
  },
  identity: ({ fields }) => `place:${fields.latitude},${fields.longitude}`,
}

function gather(visits: Map<string, Visit>, sighting: Sighting): void {
  const { latitude, longitude } = sighting.fields
  if (typeof latitude !== 'number' || typeof longitude !== 'number') return
  if (Math.abs(latitude) > 90 || Math.abs(longitude) > 180) return
  const at = { latitude: rounded(latitude), longitude: rounded(longitude) }
  const key = `${at.latitude},${at.longitude}`
  const visit = visits.get(key) ?? { ...at, dates: [], pictures: [], condition: sighting.condition, first: sighting }
  visits.set(key, visit)
  if (sighting.when) visit.dates.push(sighting.when)
  visit.pictures.push(sighting.title)
  // One picture that is still there is enough to know the place.
  if (sighting.condition === 'live') visit.condition = 'live'
}

const rounded = (degrees: number) => Math.round(degrees * 10 ** DECIMALS) / 10 ** DECIMALS

const MOST_NAMED = 50

function placeSighting({ latitude, longitude, dates, pictures, condition, first }: Visit): Sighting {
  const sorted = [...dates].sort()
  return {
    category: 'places',
    // A place has no bin, and no parts that could be missing.
    condition: condition === 'live' || condition === 'binned' ? 'live' : 'rebuilt',
    when: sorted.at(-1) ?? null,
    title: `${latitude.toFixed(DECIMALS)}, ${longitude.toFixed(DECIMALS)}`,
    text: pictures.slice(0, MOST_NAMED).join(', '),
    fields: {
      latitude,
      longitude,
      firstAt: sorted[0] ?? null,
      lastAt: sorted.at(-1) ?? null,
      pictures: pictures.length,
    },
    content: null,
    origin: first.origin,
    missing: [],
    confidence: first.confidence,
  }
}
