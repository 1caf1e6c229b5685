import type { Definition } from '../definition.js'

export const placesDefinition = {
  id: 'places',
  label: 'Places',
  formats: ['geojson', 'csv'],
  group: 'plans',
  nature: 'rows',
  columns: ['pictures', 'firstAt', 'lastAt', 'latitude', 'longitude'],
  layouts: ['map'],
  readFrom: ['photos'],
  untouchedByRestore: true,
} as const satisfies Definition
