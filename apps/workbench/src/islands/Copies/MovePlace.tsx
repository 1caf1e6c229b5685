import { useState } from 'react'
import { Dialog } from '../../components/Dialog'
import { DialogButtons } from '../../components/DialogButtons'

interface Props {
  path: string
  move: (to: string) => void
  close: () => void
}

/** Asks for the folder to which a place of copies is moved. */
export function MovePlace({ path, move, close }: Props) {
  const [to, setTo] = useState('')
  return (
    <Dialog label="Move this place" close={close} className="!w-[34rem]">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          move(to)
        }}
      >
        <h2 className="text-lg">Move this place</h2>
        <p className="break-all text-soft">Now: {path}</p>
        <label className="block">
          <span className="mb-1 block font-semibold">New folder</span>
          <input className="field" value={to} onChange={(event) => setTo(event.target.value)} />
          <span className="mt-1 block text-sm text-soft">An empty or new one, on this disk or another.</span>
        </label>
        <p>
          Every copy is brought there and read again. The old folder is cleared once all of it is right in the new one;
          sources of jobs that lie in it move with it.
        </p>
        <DialogButtons action="Move it" disabled={to.trim() === ''} close={close} />
      </form>
    </Dialog>
  )
}
