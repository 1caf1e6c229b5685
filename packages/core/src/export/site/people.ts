import { LOST_STANDINGS } from '../../findings/standing.js'
import { whoIs } from '../../findings/whom.js'
import type { BagWriter } from '../bag.js'
import type { PackagedItem } from '../packaged.js'
import { Parts, writePart } from './parts.js'
import type { SitePerson } from './shapes.js'

// So many numbers of items lie in one part.
const MOST_A_PART = 20_000
const MOST_ADDRESSES = 20
const ADDRESSES = ['sender', 'address'] as const

interface Known {
  addresses: Set<string>
  numbers: number[]
  lost: number
}

/** Who has to do with the items of a package, and with which. */
export class SitePeople {
  readonly #people = new Map<string, Known>()

  get size(): number {
    return this.#people.size
  }

  add(number: number, item: PackagedItem): void {
    const name = whoIs(item)
    if (name === null) return
    const known = this.#people.get(name) ?? { addresses: new Set(), numbers: [], lost: 0 }
    this.#people.set(name, known)
    known.numbers.push(number)
    if (LOST_STANDINGS.includes(item.standing)) known.lost++
    for (const field of ADDRESSES) {
      const address = item.fields[field]
      if (typeof address === 'string' && address !== '' && address !== name && known.addresses.size < MOST_ADDRESSES)
        known.addresses.add(address)
    }
  }

  async finish(bag: BagWriter): Promise<void> {
    const lists = new Parts<number[]>(bag, 'people', MOST_A_PART)
    const people: SitePerson[] = []
    const byCount = [...this.#people].sort(([, a], [, b]) => b.numbers.length - a.numbers.length)
    for (const [name, { addresses, numbers, lost }] of byCount) {
      const place = await lists.add(numbers, numbers.length)
      people.push({ name, addresses: [...addresses], count: numbers.length, lost, ...place })
    }
    await lists.finish()
    await writePart(bag, 'people', people)
  }
}
