import MoonStar from 'lucide-react/icons/moon-star'
import Sun from 'lucide-react/icons/sun'
import { useEffect, useState } from 'react'

/** Switches between light and dark; the choice is remembered in this browser. */
export function ThemeSwitch() {
  const [dark, setDark] = useState(false)
  useEffect(() => setDark(document.documentElement.dataset.theme === 'dark'), [])
  const change = () => {
    const theme = dark ? 'light' : 'dark'
    document.documentElement.dataset.theme = theme
    localStorage.setItem('theme', theme)
    setDark(!dark)
  }
  return (
    <button
      type="button"
      onClick={change}
      className="text-soft hover:text-ink"
      aria-label={dark ? 'Light theme' : 'Dark theme'}
    >
      {dark ? <Sun size={17} /> : <MoonStar size={17} />}
    </button>
  )
}
