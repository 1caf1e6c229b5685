import { database } from '../../database/connection.js'
import { bodyOf, route, versioned, versionSeen } from '../../server/respond.js'
import { changeSettings, loadSettings, settingsSchema } from '../../services/settings.js'
import { versionOf } from '../../services/versions.js'

async function answer(): Promise<Response> {
  const settings = await loadSettings(database())
  return versioned({ settings, version: versionOf(settings) })
}

export const GET = route(answer)

export const PUT = route(async ({ request }) => {
  await changeSettings(database(), await bodyOf(request, settingsSchema), versionSeen(request))
  return answer()
})
