import { attachmentCategory } from './attachments.js'
import { events, reminders } from './calendar/index.js'
import { calls } from './calls/index.js'
import { chatAttachmentsDefinition } from './chats/definition.js'
import { chats } from './chats/index.js'
import { contacts } from './contacts/index.js'
import { credentials } from './credentials/index.js'
import { otherFiles, strays } from './files/index.js'
import { appFiles, appPictures, appSounds, appVideos, books, music, previews, ringtones } from './files/media.js'
import { messageAttachmentsDefinition } from './messages/definition.js'
import { messages } from './messages/index.js'
import { isNoteMedia } from './notes/attachments.js'
import { noteAttachmentsDefinition } from './notes/definition.js'
import { notes } from './notes/index.js'
import { photos, videos } from './photos/index.js'
import { places } from './places/index.js'
import { voiceMemos, voicemail } from './recordings/index.js'
import type { CategoryId } from './registry.js'
import { accounts } from './system/index.js'
import { installedApps, networks } from './system/lists.js'
import type { Category } from './types.js'
import { bookmarks, openTabs, webHistory } from './web/index.js'

const known = {
  photos,
  videos,
  'app-pictures': appPictures,
  'app-videos': appVideos,
  'app-sounds': appSounds,
  'app-files': appFiles,
  previews,
  music,
  ringtones,
  messages,
  'message-attachments': attachmentCategory(messageAttachmentsDefinition, messages),
  chats,
  'chat-attachments': attachmentCategory(chatAttachmentsDefinition, chats),
  calls,
  contacts,
  notes,
  'note-attachments': attachmentCategory(noteAttachmentsDefinition, notes, isNoteMedia),
  events,
  reminders,
  'web-history': webHistory,
  bookmarks,
  'open-tabs': openTabs,
  books,
  'voice-memos': voiceMemos,
  voicemail,
  networks,
  accounts,
  credentials,
  'installed-apps': installedApps,
  places,
  strays,
}

/** How every category is read. Adding one: its folder, a line in registry.ts, a line above. */
export const CATEGORIES = {
  ...known,
  'other-files': otherFiles((entry) => Object.values(known).some((category) => category.holds(entry))),
} satisfies Record<CategoryId, Category>

/** All categories as a list. */
export const categoryList: readonly Category[] = Object.values(CATEGORIES)
