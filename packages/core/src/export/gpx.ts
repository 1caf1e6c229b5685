import type { HandoverItem } from './format.js'
import { escapeHtml } from './html.js'
import { plainText } from './plain-text.js'
import { SingleFileWriter } from './single-file.js'

/** Items that know where they were made as waypoints (GPX 1.1, topografix.com/GPX/1/1), in degrees of WGS 84. */
export class GpxWriter extends SingleFileWriter {
  protected readonly ending = 'gpx'

  protected head(): string {
    return '<?xml version="1.0" encoding="UTF-8"?>\n<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="Lumbrin">\n'
  }

  protected item({ sighting, standing }: HandoverItem): string {
    const { latitude, longitude } = sighting.fields
    if (typeof latitude !== 'number' || typeof longitude !== 'number') return ''
    const time = sighting.when ? `<time>${escapeHtml(sighting.when)}</time>` : ''
    return `<wpt lat="${latitude}" lon="${longitude}">${time}<name>${xml(sighting.title)}</name><desc>${standing}</desc></wpt>\n`
  }

  protected foot(): string {
    return '</gpx>\n'
  }
}

const xml = (text: string) => escapeHtml(plainText(text))
