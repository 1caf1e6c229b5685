import { DropdownMenu } from 'radix-ui'
import { contentAddress } from '../../components/addresses'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'
import { copyText } from './option'

interface Props {
  line: FindingLine
  lines: FindingLine[]
  choosing: Choosing
  /** Where it opens, in pixels of the window. */
  at: { x: number; y: number }
  close: () => void
}

/** The open menu of a finding. */
export function ItemMenuBox({ line, lines, choosing, at, close }: Props) {
  return (
    // Not modal, so that a right click beside it opens the menu of what is there.
    <DropdownMenu.Root open modal={false} onOpenChange={(open) => !open && close()}>
      <DropdownMenu.Trigger asChild>
        <span className="fixed" style={{ left: at.x, top: at.y }} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className="popover !p-1"
          align="start"
          aria-label="What to do with this finding"
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          <Item label="Open large" keys="Enter" act={() => choosing.enlarge(line, lines)} />
          <Item
            label={line.inTray ? 'Take out of the tray' : 'Put in the tray'}
            keys="Space"
            act={() => choosing.toggle([line])}
          />
          <Item label="Copy as text" keys="Ctrl C" act={() => void copyText(line, choosing.zone)} />
          {line.hasContent && (
            <DropdownMenu.Item asChild className={STYLE}>
              <a href={contentAddress(line.id)} download={line.title || `item ${line.id}`}>
                Save the file
              </a>
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

const STYLE =
  'flex cursor-pointer items-center justify-between gap-6 rounded px-3 py-1.5 outline-none data-[highlighted]:bg-wash'

function Item({ label, keys, act }: { label: string; keys: string; act: () => void }) {
  return (
    <DropdownMenu.Item onSelect={act} className={STYLE}>
      {label} <kbd className="font-mono text-xs text-soft">{keys}</kbd>
    </DropdownMenu.Item>
  )
}
