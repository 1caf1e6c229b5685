import type { AstroIntegration } from 'astro'
import { openEntrance, say } from './entrance.js'

/** Puts the door of the application in front of Astro's development server, so that it is entered in the same way. */
export const devEntrance = (): AstroIntegration => ({
  name: 'lumbrin-entrance',
  hooks: {
    // Every component in every state, for whoever works at them; a build has no such page.
    'astro:config:setup': ({ injectRoute }) =>
      injectRoute({ pattern: '/playground', entrypoint: new URL('../playground/playground.astro', import.meta.url) }),
    'astro:server:setup': async ({ server }) => {
      const { access, admit } = await openEntrance()
      server.middlewares.use((request, response, next) => {
        void admit(request, response).then((allowed) => allowed && next())
      })
      server.httpServer?.once('listening', () => say(`open ${access.address}`))
    },
  },
})
