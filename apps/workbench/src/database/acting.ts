import { AsyncLocalStorage } from 'node:async_hooks'

const acting = new AsyncLocalStorage<string>()

/** Does something in the name of an operator: what it puts into a log says so. */
export const actingFor = <T>(operator: string, work: () => T): T => acting.run(operator, work)

/** Who works now; an empty text: nobody said, or the application itself. */
export const actingNow = (): string => acting.getStore() ?? ''
