import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'

interface Props {
  findingId: number
  /** How the item is called, for those who listen to the page. */
  name: string
  /** An empty text: there is no note. */
  note: string
}

/** What is noted to an item, for the owner: it is printed with it, and stands in the package's index. */
export function ItemNote({ findingId, name, note }: Props) {
  const { act, failed, busy } = useAct()
  const [typed, setTyped] = useState<string | null>(null)
  const save = (text: string) =>
    act(async () => {
      await ask('PUT /api/findings/{finding}/note', { path: { finding: findingId }, body: { text } })
      setTyped(null)
    })
  if (typed === null)
    return (
      <span className="block text-sm">
        {note && <span className="private block break-words whitespace-pre-line">Note: {note}</span>}
        <button
          type="button"
          className="text-accent underline underline-offset-2 print:hidden"
          aria-label={`${note ? 'Change the note' : 'Note'}: ${name}`}
          onClick={() => setTyped(note)}
        >
          {note ? 'Change the note' : 'Note'}
        </button>
      </span>
    )
  return (
    <form
      className="mt-1 space-y-1 print:hidden"
      onSubmit={(event) => {
        event.preventDefault()
        save(typed)
      }}
    >
      <textarea
        className="field text-sm"
        rows={2}
        maxLength={1000}
        aria-label={`Note to ${name}`}
        // biome-ignore lint/a11y/noAutofocus: the field was asked for a moment ago
        autoFocus
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && setTyped(null)}
      />
      <p className="flex gap-2">
        <button type="submit" className="button" disabled={busy}>
          Save the note
        </button>
        <button type="button" className="button" onClick={() => setTyped(null)}>
          Cancel
        </button>
      </p>
      <Failure>{failed}</Failure>
    </form>
  )
}
