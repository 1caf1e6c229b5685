import { Slot } from 'radix-ui'
import { type MouseEvent, type ReactNode, Suspense, useState } from 'react'
import { atRest } from '../../components/atRest'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'
import { optionId } from './option'

const ItemMenuBox = atRest(() => import('./ItemMenuBox').then((module) => module.ItemMenuBox))

interface Props {
  lines: FindingLine[]
  choosing: Choosing
  children: ReactNode
}

interface Open {
  line: FindingLine
  at: { x: number; y: number }
  /** What had the focus, and gets it back. */
  before: Element | null
}

/** What can be done with the finding under the pointer, at a right click or with the menu key. */
export function ItemMenu({ lines, choosing, children }: Props) {
  const [open, setOpen] = useState<Open | null>(null)
  const pick = (event: MouseEvent) => {
    const id = (event.target as HTMLElement).closest('[role=option]')?.id
    const line = id === undefined ? choosing.active : lines.find((one) => optionId(one) === id)
    if (!line) return
    event.preventDefault()
    choosing.look(line)
    setOpen({ line, at: { x: event.clientX, y: event.clientY }, before: document.activeElement })
  }
  const close = () => {
    setOpen(null)
    if (open?.before instanceof HTMLElement) open.before.focus()
  }
  return (
    <>
      <Slot.Root onContextMenu={pick}>{children}</Slot.Root>
      {open && (
        <Suspense>
          <ItemMenuBox {...open} lines={lines} choosing={choosing} close={close} />
        </Suspense>
      )}
    </>
  )
}
