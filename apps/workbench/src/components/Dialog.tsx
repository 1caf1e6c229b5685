import { createContext, Suspense, useContext, useState } from 'react'
import { atRest } from './atRest'
import type { DialogBoxProps } from './DialogBox'

const DialogBox = atRest(() => import('./DialogBox').then((module) => module.DialogBox))

const Close = createContext<() => void>(() => undefined)

/** A window over the page, which holds the focus until it is closed: with Escape, beside it, or by what it holds. */
export function Dialog(props: Omit<DialogBoxProps, 'back'>) {
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
