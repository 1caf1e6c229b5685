import node from '@astrojs/node'
import react from '@astrojs/react'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'astro/config'
import { devEntrance } from './src/server/dev.js'

/** `npm run dev`: pages come from their sources, and change as those do. */
const isDev = process.env.LUMBRIN_DEV !== undefined

/** What comes in many small pieces, most pages use some of, and is small together. */
function oneFile(id: string): string | undefined {
  if (/node_modules\/(date-fns|@date-fns\/tz)\//.test(id)) return 'dates'
  if (/node_modules\/lucide-react\//.test(id)) return 'icons'
  return undefined
}

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [react(), ...(isDev ? [devEntrance()] : [])],
  devToolbar: { enabled: false },
  // Host and Origin are checked by our own server in front of everything; Astro's check knows forms only.
  security: {
    checkOrigin: false,
    allowedDomains: [
      { protocol: 'http', hostname: '127.0.0.1' },
      { protocol: 'http', hostname: 'localhost' },
    ],
  },
  experimental: { csp: true },
  vite: {
    // Small fonts would become data: addresses, which the content policy refuses.
    build: {
      assetsInlineLimit: 0,
      // A page that needs fifty small files waits for each of them in turn.
      rollupOptions: { output: { manualChunks: oneFile } },
    },
    plugins: [tailwindcss()],
    // Bundled, so that the built server does not depend on how npm hoists Astro's own packages.
    ssr: {
      noExternal: isDev ? ['@lumbrin/core'] : true,
      external: ['knex', 'mysql2', 'pino', 'sharp', 'yazl', 'pdfkit', 'heic-decode'],
    },
  },
})
