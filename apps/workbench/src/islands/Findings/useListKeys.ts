import { useRef } from 'react'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'
import { copyText } from './option'

/**
 * Keyboard of a result list: arrows move, Home and End jump, Space puts the finding in the tray or takes it out,
 * Enter opens it large, Ctrl C copies it as text. With Shift, arrows put all they pass into the tray. `columns` is 1 for lists. `reveal` scrolls to a position.
 */
export function useListKeys(
  lines: FindingLine[],
  columns: number,
  choosing: Choosing,
  reveal: (index: number) => void,
) {
  const box = useRef<HTMLDivElement>(null)
  const at = lines.findIndex((line) => line.id === choosing.active?.id)
  const go = (index: number) => {
    const line = lines[Math.max(0, Math.min(lines.length - 1, index))]
    if (!line) return
    choosing.look(line)
    reveal(lines.indexOf(line))
  }
  const keys: Record<string, () => void> = {
    ArrowRight: () => go(at + 1),
    ArrowLeft: () => go(at - 1),
    ArrowDown: () => go(at < 0 ? 0 : at + columns),
    ArrowUp: () => go(at - columns),
    Home: () => go(0),
    End: () => go(lines.length - 1),
    ' ': () => lines[at] && choosing.toggle([lines[at]]),
    Enter: () => lines[at] && choosing.enlarge(lines[at], lines),
  }
  const stretch = (by: number) => {
    const line = lines[Math.max(0, Math.min(lines.length - 1, at + by))]
    if (!line) return
    choosing.range(lines, line)
    reveal(lines.indexOf(line))
  }
  const stretches: Record<string, () => void> = {
    ArrowRight: () => stretch(1),
    ArrowLeft: () => stretch(-1),
    ArrowDown: () => stretch(columns),
    ArrowUp: () => stretch(-columns),
  }
  const onKeyDown = (event: React.KeyboardEvent) => {
    const line = lines[at]
    if ((event.ctrlKey || event.metaKey) && event.key === 'c' && line && getSelection()?.isCollapsed !== false) {
      void copyText(line, choosing.zone)
      return
    }
    const act =
      event.ctrlKey || event.metaKey || event.altKey
        ? undefined
        : (event.shiftKey && stretches[event.key]) || keys[event.key]
    if (!act) return
    event.preventDefault()
    act()
  }
  const activeId = at < 0 ? undefined : `finding-${lines[at]?.id}`
  return {
    box,
    props: { tabIndex: 0, 'aria-activedescendant': activeId, onKeyDown } as const,
  }
}
