import { createContext, type KeyboardEvent, type ReactNode, Suspense, useContext, useState } from 'react'
import { atRest } from './atRest'

const DialogBox = atRest(() => import('./DialogBox').then((module) => module.DialogBox))

const Close = createContext<() => void>(() => undefined)

export interface DialogProps {
  /** Its name for those who listen to the page. */
  label: string
  close: () => void
  /** Where it stands and how wide it is; in the middle if absent. */
  className?: string
  onKeyDown?: (event: KeyboardEvent) => void
  children: ReactNode
}

/** A window over the page, which holds the focus until it is closed: with Escape, beside it, or by what it holds. */
export function Dialog(props: DialogProps) {
  // The focus goes back to where it was, which need not be a button of the dialog's own.
  const [before] = useState(() => document.activeElement)
  const back = () => before instanceof HTMLElement && before.focus()
  return (
    <Close.Provider value={props.close}>
      <Suspense>
        <DialogBox {...props} back={back} />
      </Suspense>
    </Close.Provider>
  )
}

/** A button that closes the dialog it stands in. */
export function CloseButton({ className = '' }: { className?: string }) {
  return (
    <button type="button" className={`button ${className}`} onClick={useContext(Close)}>
      Close
    </button>
  )
}
