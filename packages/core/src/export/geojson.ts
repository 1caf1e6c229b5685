import type { HandoverItem } from './format.js'
import { SingleFileWriter } from './single-file.js'

/** Items that know where they were made as points (GeoJSON, RFC 7946): longitude first, in degrees of WGS 84. */
export class GeojsonWriter extends SingleFileWriter {
  protected readonly ending = 'geojson'
  #first = true

  protected head(): string {
    return '{"type":"FeatureCollection","features":[\n'
  }

  protected item({ sighting, standing }: HandoverItem): string {
    const { latitude, longitude, ...properties } = sighting.fields
    if (typeof latitude !== 'number' || typeof longitude !== 'number') return ''
    const feature = {
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [longitude, latitude] },
      properties: { ...properties, title: sighting.title, text: sighting.text, standing },
    }
    const comma = this.#first ? '' : ',\n'
    this.#first = false
    return `${comma}${JSON.stringify(feature)}`
  }

  protected foot(): string {
    return '\n]}\n'
  }
}
