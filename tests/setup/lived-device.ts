import { join } from 'node:path'
import { openSource } from '@lumbrin/core/collected/open'
import { type CopyOptions, type CopyOutcome, makeCopy } from '@lumbrin/core/copies/make'
import { BackupBuilder } from '@lumbrin/standins/backup/builder'
import { Random } from '@lumbrin/standins/random'

const DEVICE = { name: 'Made up', productType: 'iPhone14,5', osVersion: '17.0', udid: 'c'.repeat(40) }
const WEEK = 7 * 86_400_000

/** How much stands on a device at first, and comes each week. */
export interface Growth {
  first: number
  weekly: number
  /** Bytes of the smallest and the largest picture. */
  sizes: readonly [number, number]
}

const SMALL: Growth = { first: 120, weekly: 4, sizes: [2000, 9000] }

/** What stands on a device week after week: pictures come, notes change, some go. */
export class LivedDevice {
  readonly files = new Map<string, { content: Buffer; at: Date }>()
  readonly #random = new Random(26)
  week = 0

  constructor(readonly growth = SMALL) {}

  live(): void {
    const { first, weekly, sizes } = this.growth
    const at = new Date(Date.UTC(2026, 0, 1) + this.week * WEEK)
    for (let i = 0; i < (this.week === 0 ? first : weekly); i++)
      this.files.set(`Media/DCIM/W${this.week}_${i}.JPG`, { content: this.#bytes(this.#random.int(...sizes)), at })
    for (let i = 0; i < 5; i++) this.files.set(`Media/Notes/${i}.txt`, { content: this.#bytes(300), at })
    if (this.week > 0) this.files.delete(this.#random.pick([...this.files.keys()]))
    this.week++
  }

  #bytes(length: number): Buffer {
    const bytes = Buffer.alloc(length)
    for (let at = 0; at < length; at += 4)
      bytes.writeUInt32LE(this.#random.int(0, 0xffffffff), Math.min(at, length - 4))
    return bytes
  }

  /** Its backup of this week, below a folder. */
  async backup(below: string): Promise<string> {
    const takenAt = new Date(Date.UTC(2026, 0, 2) + this.week * WEEK)
    const builder = new BackupBuilder(join(below, `week-${this.week}`), { ...DEVICE, takenAt })
    for (const [path, { content, at }] of this.files) await builder.addFile('CameraRollDomain', path, content, at)
    await builder.finish()
    return builder.folder
  }

  get bytes(): number {
    return [...this.files.values()].reduce((sum, { content }) => sum + content.length, 0)
  }
}

/** Makes a copy of what lies in a folder. */
export async function copyOf(folder: string, place: string, more: Partial<CopyOptions> = {}): Promise<CopyOutcome> {
  const tree = await openSource(folder, () => {})
  try {
    return await makeCopy(tree, place, { report: () => {}, ...more })
  } finally {
    await tree.close()
  }
}
