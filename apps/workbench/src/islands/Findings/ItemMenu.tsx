import { ContextMenu } from 'radix-ui'
import { type MouseEvent, type ReactNode, useState } from 'react'
import { contentAddress } from '../../components/addresses'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'
import { copyText, optionId } from './option'

interface Props {
  lines: FindingLine[]
  choosing: Choosing
  children: ReactNode
}

/** What can be done with the finding under the pointer, at a right click or with the menu key. */
export function ItemMenu({ lines, choosing, children }: Props) {
  const [line, setLine] = useState<FindingLine | null>(null)
  const pick = ({ target }: MouseEvent) => {
    const id = (target as HTMLElement).closest('[role=option]')?.id
    const found = id === undefined ? choosing.active : lines.find((one) => optionId(one) === id)
    setLine(found ?? null)
    if (found) choosing.look(found)
  }
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild onContextMenu={pick}>
        {children}
      </ContextMenu.Trigger>
      {line && (
        <ContextMenu.Portal>
          <ContextMenu.Content className="popover !p-1" aria-label="What to do with this finding">
            <Item label="Open large" keys="Enter" act={() => choosing.enlarge(line, lines)} />
            <Item
              label={line.inTray ? 'Take out of the tray' : 'Put in the tray'}
              keys="Space"
              act={() => choosing.toggle([line])}
            />
            <Item label="Copy as text" keys="Ctrl C" act={() => void copyText(line, choosing.zone)} />
            {line.hasContent && (
              <ContextMenu.Item asChild className={STYLE}>
                <a href={contentAddress(line.id)} download={line.title || `item ${line.id}`}>
                  Save the file
                </a>
              </ContextMenu.Item>
            )}
          </ContextMenu.Content>
        </ContextMenu.Portal>
      )}
    </ContextMenu.Root>
  )
}

const STYLE =
  'flex cursor-pointer items-center justify-between gap-6 rounded px-3 py-1.5 outline-none data-[highlighted]:bg-wash'

function Item({ label, keys, act }: { label: string; keys: string; act: () => void }) {
  return (
    <ContextMenu.Item onSelect={act} className={STYLE}>
      {label} <kbd className="font-mono text-xs text-soft">{keys}</kbd>
    </ContextMenu.Item>
  )
}
