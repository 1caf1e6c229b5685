import type { SourceEntry } from '../../backup/types.js'
import { mimeOf } from '../../media/kinds.js'
import { BUILT_IN_PROFILES } from '../chats/built-in.js'

/** Where applications keep their files; the application's id stands behind the first hyphen. */
const APP = /^App(?:Domain|DomainGroup|DomainPlugin)-(.+)$/

/** The application a file belongs to; null: it is the system's. */
export const appOf = ({ domain }: Pick<SourceEntry, 'domain'>): string | null => APP.exec(domain)?.[1] ?? null

/** Small pictures that stand for larger ones: the library's, and those in applications' folders of that name. */
export const isPreview = ({ domain, path }: SourceEntry): boolean =>
  (domain === 'CameraRollDomain' && (path.startsWith('Media/PhotoData/Thumbnails/') || path.endsWith('.ithmb'))) ||
  (domain.startsWith('AppDomain') && /(?:^|\/)(?:thumb(?:nail)?s?|previews?)\//i.test(path))

/** True for files that hang on chats, which are shown with those. */
const hangsOnChat = ({ domain, path }: SourceEntry) =>
  BUILT_IN_PROFILES.some(
    ({ stores, attachments }) =>
      attachments?.table !== undefined &&
      attachments.folder !== '' &&
      path.startsWith(attachments.folder) &&
      stores.some((store) => store.domain === domain),
  )

/** Groups of the system's own applications, whose files are shown with their own categories. */
const SYSTEM_GROUPS = [
  'AppDomainGroup-group.com.apple.notes',
  'AppDomainGroup-group.com.apple.reminders',
  'AppDomainGroup-group.com.apple.VoiceMemos.shared',
]

// Icons and the like; whoever wants them finds them among the other files.
const LEAST_PICTURE_BYTES = 1000

const isAppMedia = (entry: SourceEntry, mime: string) =>
  appOf(entry) !== null &&
  !SYSTEM_GROUPS.includes(entry.domain) &&
  !isPreview(entry) &&
  !hangsOnChat(entry) &&
  mimeOf(entry.path).startsWith(mime)

/** What the owner put into an application, or into the device's own file manager. */
const DOCUMENTS = /(?:^|\/)(?:Documents|File Provider Storage)\//
const DATA_ENDINGS = /\.(?:sqlite3?|db|sqlitedb|storedata|plist|json|lock|log|binarycookies)(?:-wal|-shm|-journal)?$/i

/** Kinds of file by where they lie and what they are; the first that fits counts. */
export const FILE_KINDS = {
  previews: isPreview,
  music: ({ domain, path }: SourceEntry) => domain === 'MediaDomain' && path.startsWith('Media/iTunes_Control/Music/'),
  ringtones: ({ domain, path }: SourceEntry) =>
    (domain === 'MediaDomain' && path.startsWith('Media/iTunes_Control/Ringtones/')) ||
    (domain === 'TonesDomain' && /\.(?:m4r|m4a)$/i.test(path)),
  books: ({ domain, path }: SourceEntry) =>
    (domain === 'BooksDomain' || (domain === 'MediaDomain' && path.startsWith('Media/Books/'))) &&
    /\.(?:epub|pdf|ibooks|m4b|mp3)$/i.test(path),
  'app-pictures': (entry: SourceEntry) =>
    isAppMedia(entry, 'image/') && (entry.size === null || entry.size >= LEAST_PICTURE_BYTES),
  'app-videos': (entry: SourceEntry) => isAppMedia(entry, 'video/'),
  'app-sounds': (entry: SourceEntry) => isAppMedia(entry, 'audio/'),
  'app-files': (entry: SourceEntry) =>
    appOf(entry) !== null &&
    DOCUMENTS.test(`/${entry.path}`) &&
    !DATA_ENDINGS.test(entry.path) &&
    !hangsOnChat(entry) &&
    !/^(?:image|video|audio)\//.test(mimeOf(entry.path)),
} as const satisfies Record<string, (entry: SourceEntry) => boolean>

export type FileKind = keyof typeof FILE_KINDS
