import node from '@astrojs/node'
import react from '@astrojs/react'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'astro/config'
import { devEntrance } from './src/server/dev.js'

/** `npm run dev`: pages come from their sources, and change as those do. */
const isDev = process.env.LUMBRIN_DEV !== undefined

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
    build: { assetsInlineLimit: 0 },
    plugins: [tailwindcss()],
    // Bundled, so that the built server does not depend on how npm hoists Astro's own packages.
    ssr: {
      noExternal: isDev ? ['@lumbrin/core'] : true,
      external: ['knex', 'mysql2', 'pino', 'sharp', 'yazl', 'pdfkit', 'heic-decode'],
    },
  },
})
