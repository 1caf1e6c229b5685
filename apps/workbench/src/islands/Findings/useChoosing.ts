import { useState } from 'react'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'
import type { Tray } from './useTray'

interface Options {
  /** By whose clocks times are copied (IANA). */
  zone: string
  tray: Tray
  /** Told which finding is looked at. */
  looked?: (line: FindingLine) => void
}

/** Which finding is looked at, which one is open large, and what is done with those that are picked. */
export function useChoosing({ zone, tray, looked = () => {} }: Options) {
  const [active, setActive] = useState<FindingLine | null>(null)
  const [large, setLarge] = useState<{ line: FindingLine; lines: FindingLine[] } | null>(null)
  const look = (line: FindingLine) => {
    setActive(line)
    looked(line)
  }
  const choosing: Choosing = {
    active,
    zone,
    look,
    enlarge: (line, lines = [line]) => {
      look(line)
      setLarge({ line, lines })
    },
    toggle: (lines) => {
      const inTray = !lines.every((line) => line.inTray)
      tray.change(lines, inTray)
      setActive((now) => (now && lines.some((line) => line.id === now.id) ? { ...now, inTray } : now))
    },
    range: (lines, to) => {
      const end = lines.findIndex((line) => line.id === to.id)
      const start = lines.findIndex((line) => line.id === active?.id)
      const [first, last] = start < 0 ? [end, end] : [Math.min(start, end), Math.max(start, end)]
      tray.change(lines.slice(first, last + 1), true)
      look({ ...to, inTray: true })
    },
    all: tray.all,
  }
  return { choosing, setActive, large, shrink: () => setLarge(null) }
}
