import type { PartStarts } from '@lumbrin/core/export/bag-types'
import type { SiteStart } from '@lumbrin/core/export/site/shapes'
import { createRoot } from 'react-dom/client'
import { Island } from '../components/Island'
import { loadPart, receiveParts } from './parts'
import { Site } from './Site'
import { PackagePartsProvider, StartProvider } from './useParts'
import './site.css'

/** Puts the pages in the place of what needs no script; that stays where something is missing. */
async function begin(): Promise<void> {
  const root = document.getElementById('site')
  if (!root) return
  receiveParts()
  const start = (await loadPart('start')) as SiteStart
  const parts = JSON.parse(root.dataset.parts ?? '[]') as PartStarts
  const dark = window.matchMedia('(prefers-color-scheme: dark)')
  const follow = () => {
    document.documentElement.dataset.theme = dark.matches ? 'dark' : 'light'
  }
  dark.addEventListener('change', follow)
  follow()
  createRoot(root).render(
    <Island zone={start.zone}>
      <StartProvider value={start}>
        <PackagePartsProvider value={parts}>
          <Site />
        </PackagePartsProvider>
      </StartProvider>
    </Island>,
  )
}

void begin()
