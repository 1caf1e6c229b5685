import { itemTime } from '@lumbrin/core/findings/item-time'
import type { DragEvent, MouseEvent } from 'react'
import { contentAddress } from '../../components/addresses'
import type { FindingLine } from '../../domain/finding'
import type { Choosing } from './choosing'

/** The id by which the list box names the result that is looked at. */
export const optionId = (line: FindingLine): string => `finding-${line.id}`

/**
 * How a finding in a result list is handled with the mouse, as in any file manager: a click looks at it, with Ctrl it goes
 * into the tray or out, with Shift all up to it go in; a double click opens it large; it can be dragged out as a file.
 */
export function optionProps(line: FindingLine, lines: FindingLine[], choosing: Choosing) {
  return {
    id: optionId(line),
    draggable: line.hasContent,
    onClick: (event: MouseEvent) => {
      if (event.shiftKey) choosing.range(lines, line)
      else if (event.ctrlKey || event.metaKey) {
        choosing.look(line)
        choosing.toggle([line])
      } else choosing.look(line)
    },
    onDoubleClick: () => choosing.enlarge(line, lines),
    onDragStart: (event: DragEvent) => dragAsFile(event, line, choosing.zone),
  }
}

/** What is dropped outside of the browser becomes a file, where the browser knows that. */
function dragAsFile({ dataTransfer }: DragEvent, line: FindingLine, zone: string): void {
  const name = (line.title || `item ${line.id}`).replaceAll(/[:/\\]/g, '_')
  const address = new URL(contentAddress(line.id), location.href).href
  dataTransfer.setData('DownloadURL', `${line.mime ?? 'application/octet-stream'}:${name}:${address}`)
  dataTransfer.setData('text/plain', plainText(line, zone))
}

/** A finding as a line of text: when by the clocks of a zone, who or what, and what it says. */
export const plainText = (line: FindingLine, zone: string): string =>
  [itemTime(line, zone), line.title, line.text].filter(Boolean).join('\t')

/** Copies a finding as text, for pasting. */
export const copyText = (line: FindingLine, zone: string): Promise<void> =>
  navigator.clipboard.writeText(plainText(line, zone))
