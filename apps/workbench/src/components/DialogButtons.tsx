interface Props {
  /** What the form does. */
  action: string
  disabled?: boolean
  close: () => void
}

/** How a form in a dialog ends: it is done, or left alone. */
export const DialogButtons = ({ action, disabled = false, close }: Props) => (
  <p className="flex gap-3">
    <button type="submit" className="button button-main" disabled={disabled}>
      {action}
    </button>
    <button type="button" className="button" onClick={close}>
      Cancel
    </button>
  </p>
)
