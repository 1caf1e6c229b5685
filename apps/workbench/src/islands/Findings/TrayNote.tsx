import { useHotkeys } from 'react-hotkeys-hook'
import { formatCount } from '../../domain/format'
import type { Tray } from './useTray'

/** What the last change of the tray did, in a corner so that nothing moves, with its undoing. */
export function TrayNote({ tray }: { tray: Tray }) {
  const { last } = tray
  useHotkeys('mod+z', () => tray.undo(), { preventDefault: true })
  return (
    <output className="absolute right-4 bottom-4 z-10">
      {last?.many && (
        <span className="flex items-center gap-3 rounded border border-rule bg-raised py-1.5 pr-2 pl-3 shadow-md">
          {wordsOf(last.count, last.inTray)}
          {last.count > 0 && (
            <button type="button" className="text-accent underline underline-offset-2" onClick={() => tray.undo()}>
              undo
            </button>
          )}
          <button type="button" className="px-1 text-soft" aria-label="Close this note" onClick={() => tray.forget()}>
            ×
          </button>
        </span>
      )}
    </output>
  )
}

function wordsOf(count: number, inTray: boolean): string {
  if (count === 0) return inTray ? 'All of these were in the tray already' : 'None of these was in the tray'
  return `${formatCount(count)} ${inTray ? 'put in the tray' : 'taken out of the tray'}`
}
