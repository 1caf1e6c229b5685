import { type Profile, profileSchema } from './profile.js'
import coreDataChat from './profiles/core-data-chat.json' with { type: 'json' }
import puppetryChat from './profiles/puppetry-chat.json' with { type: 'json' }

/** The profiles that ship with the product. */
export const BUILT_IN_PROFILES: readonly Profile[] = [coreDataChat, puppetryChat].map((one) => profileSchema.parse(one))
