import { filesDefinition } from '../definition.js'

export const appPicturesDefinition = filesDefinition('app-pictures', 'Pictures in apps', {
  group: 'pictures',
  layouts: ['grid', 'map'],
  contents: 'picture',
  carved: true,
})
export const appVideosDefinition = filesDefinition('app-videos', 'Videos in apps', { group: 'pictures', carved: true })
export const appSoundsDefinition = filesDefinition('app-sounds', 'Sounds in apps', {
  group: 'pictures',
  contents: 'sound',
  carved: true,
})
export const appFilesDefinition = filesDefinition('app-files', 'Files in apps', { group: 'device', carved: true })
export const previewsDefinition = filesDefinition('previews', 'Small previews', {
  group: 'pictures',
  layouts: ['grid'],
  contents: 'picture',
  onlyByName: true,
})
export const musicDefinition = filesDefinition('music', 'Music', { group: 'pictures', contents: 'sound' })
export const ringtonesDefinition = filesDefinition('ringtones', 'Ringtones', { group: 'pictures', contents: 'sound' })
export const booksDefinition = filesDefinition('books', 'Books', { group: 'device' })
export const straysDefinition = filesDefinition('strays', 'Unlisted files', {
  group: 'device',
  formats: ['original'],
  columns: ['kind', 'takenAt'],
  untouchedByRestore: true,
})
export const otherFilesDefinition = filesDefinition('other-files', 'Other files', {
  group: 'device',
  formats: ['original'],
  columns: ['domain', 'path', 'modifiedAt'],
})
