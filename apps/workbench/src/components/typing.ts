/** True where a key belongs to a field that is typed into. */
export const isTyping = ({ target }: KeyboardEvent): boolean =>
  target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement
