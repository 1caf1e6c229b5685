import Eye from 'lucide-react/icons/eye'
import EyeOff from 'lucide-react/icons/eye-off'
import MoonStar from 'lucide-react/icons/moon-star'
import Sun from 'lucide-react/icons/sun'
import { useEffect, useState } from 'react'
import { CHANGED, isDark, isDiscreet, switchDiscreet, switchTheme } from '../../components/appearance'

/** Light or dark, and whether names, texts and pictures are blurred; both are remembered in this browser. */
export function Switches() {
  const [dark, setDark] = useState(false)
  const [discreet, setDiscreet] = useState(false)
  useEffect(() => {
    const read = () => {
      setDark(isDark())
      setDiscreet(isDiscreet())
    }
    read()
    window.addEventListener(CHANGED, read)
    return () => window.removeEventListener(CHANGED, read)
  }, [])
  return (
    <>
      <button
        type="button"
        onClick={switchDiscreet}
        aria-pressed={discreet}
        className={`flex items-center gap-1.5 ${discreet ? 'font-semibold text-accent' : 'text-soft hover:text-ink'}`}
        title="Blurs names, texts and pictures until they are held (B)"
      >
        {discreet ? <EyeOff size={17} aria-hidden="true" /> : <Eye size={17} aria-hidden="true" />}
        Discreet
      </button>
      <button
        type="button"
        onClick={switchTheme}
        className="text-soft hover:text-ink"
        aria-label={dark ? 'Light theme' : 'Dark theme'}
      >
        {dark ? <Sun size={17} /> : <MoonStar size={17} />}
      </button>
    </>
  )
}
