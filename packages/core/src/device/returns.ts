import { textOf } from '../plist/read.js'
import { DeviceError } from './errors.js'
import { ask, type Dict, type ListValue } from './lists.js'
import type { Lockdown } from './lockdown.js'
import { StreamReader } from './stream.js'

/** Kinds of item that can go back to a device. */
export const RETURN_KINDS = ['contacts', 'notes', 'messages'] as const
export type ReturnKind = (typeof RETURN_KINDS)[number]

const SERVICE = 'org.lumbrin.standin.returns'

/** How the device stands before anything is returned. */
export interface ReturnPreview {
  count: number
  /** For each item: the device has it already. */
  known: boolean[]
}

/**
 * The service through which items go back to the owner's device. It is the stand-in's own: real devices take such items
 * by ways that are not spoken here.
 */
export class ReturnService {
  readonly #reader: StreamReader

  private constructor(reader: StreamReader) {
    this.#reader = reader
  }

  static async open(lockdown: Lockdown): Promise<ReturnService> {
    return new ReturnService(new StreamReader(await lockdown.service(SERVICE), lockdown.mux.silenceMs))
  }

  /** Looks without changing anything. */
  async preview(kind: ReturnKind, items: ListValue[]): Promise<ReturnPreview> {
    const answer = await this.#ask({ Command: 'Look', Kind: kind, Items: items })
    return { count: Number(answer.Count), known: Array.isArray(answer.Known) ? answer.Known.map(Boolean) : [] }
  }

  /** Adds what the device does not have. Ids of what was added; 0 for what was there. */
  async add(kind: ReturnKind, items: ListValue[]): Promise<{ before: number; after: number; added: number[] }> {
    const answer = await this.#ask({ Command: 'Add', Kind: kind, Items: items })
    const added = Array.isArray(answer.Added) ? answer.Added.map(Number) : []
    return { before: Number(answer.Before), after: Number(answer.Count), added }
  }

  /** Takes back what was added. */
  async remove(kind: ReturnKind, ids: number[]): Promise<{ before: number; after: number }> {
    const answer = await this.#ask({ Command: 'Remove', Kind: kind, Ids: ids })
    return { before: Number(answer.Before), after: Number(answer.Count) }
  }

  async #ask(question: { [key: string]: ListValue }): Promise<Dict> {
    const answer = await ask(this.#reader, question)
    const error = textOf(answer.Error)
    if (error === 'TheftLockOn')
      throw new DeviceError(
        'refused',
        'The theft lock is on: nothing can be returned to this device. Its owner turns it off in the settings of the device.',
      )
    if (error) throw new DeviceError('refused', `The device refused: ${error}.`)
    return answer
  }

  close(): void {
    this.#reader.stream.destroy()
  }
}
