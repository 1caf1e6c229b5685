/** What the page looks like, as it stands on its root element and in this browser's storage. */
const read = (name: 'theme' | 'discreet') => document.documentElement.dataset[name]

function set(name: 'theme' | 'discreet', value: string): void {
  document.documentElement.dataset[name] = value
  localStorage.setItem(name, value)
  window.dispatchEvent(new Event(CHANGED))
}

/** Told when either changes, by whatever means. */
export const CHANGED = 'lumbrin-appearance'

export const isDark = (): boolean => read('theme') === 'dark'
export const isDiscreet = (): boolean => read('discreet') === 'on'
export const switchTheme = (): void => set('theme', isDark() ? 'light' : 'dark')
export const switchDiscreet = (): void => set('discreet', isDiscreet() ? 'off' : 'on')
