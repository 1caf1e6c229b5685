import { eventsDefinition, remindersDefinition } from './calendar/definition.js'
import { callsDefinition } from './calls/definition.js'
import { chatAttachmentsDefinition, chatsDefinition } from './chats/definition.js'
import { contactsDefinition } from './contacts/definition.js'
import { credentialsDefinition } from './credentials/definition.js'
import type { Definition, Group } from './definition.js'
import {
  appFilesDefinition,
  appPicturesDefinition,
  appSoundsDefinition,
  appVideosDefinition,
  booksDefinition,
  musicDefinition,
  otherFilesDefinition,
  previewsDefinition,
  ringtonesDefinition,
  straysDefinition,
} from './files/definition.js'
import { messageAttachmentsDefinition, messagesDefinition } from './messages/definition.js'
import { noteAttachmentsDefinition, notesDefinition } from './notes/definition.js'
import { photosDefinition, videosDefinition } from './photos/definition.js'
import { placesDefinition } from './places/definition.js'
import { voiceMemosDefinition, voicemailDefinition } from './recordings/definition.js'
import { accountsDefinition, installedAppsDefinition, networksDefinition } from './system/definition.js'
import { bookmarksDefinition, openTabsDefinition, webHistoryDefinition } from './web/definition.js'

export { GROUPS, type Group } from './definition.js'

/** What every category is, in the order in which they are read and shown. How each is read: table.ts. */
const DEFINED = [
  photosDefinition,
  videosDefinition,
  appPicturesDefinition,
  appVideosDefinition,
  appSoundsDefinition,
  appFilesDefinition,
  previewsDefinition,
  musicDefinition,
  ringtonesDefinition,
  messagesDefinition,
  messageAttachmentsDefinition,
  chatsDefinition,
  chatAttachmentsDefinition,
  callsDefinition,
  contactsDefinition,
  notesDefinition,
  noteAttachmentsDefinition,
  eventsDefinition,
  remindersDefinition,
  webHistoryDefinition,
  bookmarksDefinition,
  openTabsDefinition,
  booksDefinition,
  voiceMemosDefinition,
  voicemailDefinition,
  networksDefinition,
  accountsDefinition,
  credentialsDefinition,
  installedAppsDefinition,
  placesDefinition,
  straysDefinition,
  otherFilesDefinition,
] as const satisfies readonly Definition[]

export type CategoryId = (typeof DEFINED)[number]['id']

/** A category as what is derived from it sees it. */
export type DefinedCategory = Definition & { id: CategoryId }

export const DEFINITIONS: readonly DefinedCategory[] = DEFINED

export const CATEGORY_IDS: readonly CategoryId[] = DEFINED.map(({ id }) => id)

const byId = new Map(DEFINITIONS.map((one) => [one.id, one]))

/** @throws Error where there is none such: ids are checked at the edge */
export function definitionOf(id: CategoryId): DefinedCategory {
  const definition = byId.get(id)
  if (!definition) throw new Error(`there is no category ${id}`)
  return definition
}

const idsOf = (holds: (definition: DefinedCategory) => boolean): readonly CategoryId[] =>
  DEFINITIONS.filter(holds).map(({ id }) => id)

/** The categories that other categories name, in `readFrom` and `files`. */
export const named = (ids: readonly string[] = []): readonly CategoryId[] => idsOf(({ id }) => ids.includes(id))

/** The categories of a group. */
export const categoriesIn = (group: Group): readonly CategoryId[] => idsOf((definition) => definition.group === group)

/** What a read takes where nothing was chosen. */
export const USUAL_CATEGORIES = idsOf(({ onlyByName }) => !onlyByName)
/** Categories whose items are cut out of other bytes too. */
export const CARVED_CATEGORIES = idsOf(({ carved }) => carved === true)
/** Categories whose items may be pictures. */
export const PICTURE_CATEGORIES = idsOf(({ contents }) => contents === 'picture')
