import type { FindingLine } from '../../domain/finding'
import type { FindingsQuery } from '../../domain/findings-query'

/** What every result view gets: which finding is looked at, and what can be done with it. */
export interface Choosing {
  active: FindingLine | null
  /** By whose clocks times are copied (IANA). */
  zone: string
  look: (line: FindingLine) => void
  /** Opens it over the whole window; arrows go on through `lines`. */
  enlarge: (line: FindingLine, lines?: FindingLine[]) => void
  toggle: (lines: FindingLine[]) => void
  /** Puts everything from the finding looked at to this one into the tray. */
  range: (lines: FindingLine[], to: FindingLine) => void
  /** Puts all that a query finds into the tray, seen or not; or takes it out. */
  all: (query: FindingsQuery, inTray: boolean) => void
}
