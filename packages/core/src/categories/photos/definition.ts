import type { Definition } from '../definition.js'

export const photosDefinition = {
  id: 'photos',
  label: 'Photos',
  formats: ['original'],
  moreFormats: ['albums', 'sidecars', 'jpeg', 'geojson', 'gpx'],
  group: 'pictures',
  nature: 'files',
  columns: ['fileName', 'width', 'height', 'albums', 'latitude', 'longitude', 'daysLeft'],
  layouts: ['grid', 'map'],
  contents: 'picture',
} as const satisfies Definition

export const videosDefinition = {
  id: 'videos',
  label: 'Videos',
  formats: ['original'],
  moreFormats: ['albums', 'sidecars'],
  group: 'pictures',
  nature: 'files',
  columns: ['fileName', 'width', 'height', 'albums', 'daysLeft'],
  layouts: ['map'],
} as const satisfies Definition
