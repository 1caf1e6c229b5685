import type { Sighting } from '../categories/types.js'
import { itemIso } from '../findings/item-time.js'
import type { FormatWriter, HandoverItem, PackageContext } from './format.js'
import { escapeHtml } from './html.js'

/**
 * What the library knew of a picture or a film, in a small file beside it that picture programs read (XMP, ISO 16684-1):
 * its time, place, albums, and whether it was a favourite. The picture itself stays as it was, byte for byte.
 */
export class SidecarsWriter implements FormatWriter {
  readonly #done = new Set<string>()

  constructor(
    readonly context: PackageContext,
    readonly folder: string,
  ) {}

  async add({ sighting }: HandoverItem): Promise<void> {
    // Where two pictures are the same bytes, the file of the first has its sidecar already.
    for (const file of this.context.liesAt().filter((one) => !this.#done.has(one))) {
      this.#done.add(file)
      const at = file.lastIndexOf('/')
      const place = this.context.places.take(file.slice(0, at), `${file.slice(at + 1)}.xmp`)
      await this.context.bag.write(place, sidecar(sighting, this.context.timeZone))
      this.context.placed(place)
    }
  }

  async finish(): Promise<void> {}
}

const NAMESPACES = {
  dc: 'http://purl.org/dc/elements/1.1/',
  xmp: 'http://ns.adobe.com/xap/1.0/',
  exif: 'http://ns.adobe.com/exif/1.0/',
  photoshop: 'http://ns.adobe.com/photoshop/1.0/',
}
// Common practice: a favourite has all five stars.
const FAVOURITE = 5

function sidecar(sighting: Sighting, zone: string): string {
  const { fields, title } = sighting
  const albums = Array.isArray(fields.albums) ? fields.albums.filter((one) => typeof one === 'string') : []
  const when = itemIso(sighting, zone)
  const lines = [
    when && `<photoshop:DateCreated>${when}</photoshop:DateCreated>`,
    fields.favourite === true && `<xmp:Rating>${FAVOURITE}</xmp:Rating>`,
    `<dc:title><rdf:Alt><rdf:li xml:lang="x-default">${escapeHtml(title)}</rdf:li></rdf:Alt></dc:title>`,
    albums.length > 0 &&
      `<dc:subject><rdf:Bag>${albums.map((one) => `<rdf:li>${escapeHtml(one)}</rdf:li>`).join('')}</rdf:Bag></dc:subject>`,
    typeof fields.latitude === 'number' && `<exif:GPSLatitude>${degrees(fields.latitude, 'NS')}</exif:GPSLatitude>`,
    typeof fields.longitude === 'number' && `<exif:GPSLongitude>${degrees(fields.longitude, 'EW')}</exif:GPSLongitude>`,
  ].filter(Boolean)
  const spaces = Object.entries(NAMESPACES).map(([name, address]) => `xmlns:${name}="${address}"`)
  return `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" ${spaces.join(' ')}>
${lines.join('\n')}
</rdf:Description></rdf:RDF></x:xmpmeta>
<?xpacket end="r"?>
`
}

/** `52,30.2500N`: degrees and minutes, as XMP has them (ISO 16684-1, 8.2.2.4; the specification's GPSCoordinate). */
function degrees(value: number, [positive = '', negative = '']: string): string {
  const size = Math.abs(value)
  const whole = Math.floor(size)
  return `${whole},${((size - whole) * 60).toFixed(6)}${value < 0 ? negative : positive}`
}
