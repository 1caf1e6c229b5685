import { attachmentCategory } from './attachments.js'
import { events, reminders } from './calendar/index.js'
import { calls } from './calls/index.js'
import { chats } from './chats/index.js'
import { contacts } from './contacts/index.js'
import { credentials } from './credentials/index.js'
import { otherFiles, strays } from './files/index.js'
import { appFiles, appPictures, appSounds, appVideos, books, music, previews, ringtones } from './files/media.js'
import { messages } from './messages/index.js'
import { isNoteMedia } from './notes/attachments.js'
import { notes } from './notes/index.js'
import { photos, videos } from './photos/index.js'
import { places } from './places/index.js'
import { voiceMemos, voicemail } from './recordings/index.js'
import { accounts } from './system/index.js'
import { installedApps, networks } from './system/lists.js'
import type { Category, CategoryId } from './types.js'
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
  'message-attachments': attachmentCategory('message-attachments', 'Message attachments', messages),
  chats,
  'chat-attachments': attachmentCategory('chat-attachments', 'Chat attachments', chats),
  calls,
  contacts,
  notes,
  'note-attachments': attachmentCategory('note-attachments', 'Note attachments', notes, isNoteMedia),
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

/** Every category, in the order in which it is read and shown. Adding one: its folder, its id, a line above. */
export const CATEGORIES = {
  ...known,
  'other-files': otherFiles((entry) => Object.values(known).some((category) => category.holds(entry))),
} satisfies Record<CategoryId, Category>

/** All categories as a list. */
export const categoryList: readonly Category[] = Object.values(CATEGORIES)
