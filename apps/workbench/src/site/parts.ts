import { PART_CALL } from '@lumbrin/core/export/site/shapes'

/*
 * A page that was opened from a folder may not ask for files, but it may run scripts that lie beside it: each part of the
 * data is a script which calls one function with its name and what it holds.
 */

const FOLDER = 'data/site/'

type Waiting = { resolve: (value: unknown) => void; reject: (why: Error) => void }
const waiting = new Map<string, Waiting>()

/** Lets parts hand over what they hold. */
export function receiveParts(): void {
  Object.defineProperty(window, PART_CALL, {
    value: (name: string, value: unknown) => {
      waiting.get(name)?.resolve(value)
      waiting.delete(name)
    },
  })
}

/** Loads a part of the data. @throws Error where it is not there */
export function loadPart(name: string): Promise<unknown> {
  return new Promise((resolve, reject) => {
    waiting.set(name, { resolve, reject })
    const script = document.createElement('script')
    script.src = `${FOLDER}${name}.js`
    script.onload = () => {
      script.remove()
      if (waiting.delete(name)) reject(lost(name))
    }
    script.onerror = () => {
      script.remove()
      waiting.delete(name)
      reject(lost(name))
    }
    document.head.append(script)
  })
}

const lost = (name: string) =>
  new Error(`Part of this package cannot be read (${FOLDER}${name}.js). Copy the whole package again, and open that.`)

/** A file of the package as a link: each part of its place encoded. */
export const linkTo = (place: string): string => place.split('/').map(encodeURIComponent).join('/')
