import { filesDefinition } from '../definition.js'

export const appPicturesDefinition = filesDefinition('app-pictures', 'Pictures in apps', {
  layouts: ['grid', 'map'],
  contents: 'picture',
  carved: true,
})
export const appVideosDefinition = filesDefinition('app-videos', 'Videos in apps', { carved: true })
export const appSoundsDefinition = filesDefinition('app-sounds', 'Sounds in apps', { contents: 'sound', carved: true })
export const appFilesDefinition = filesDefinition('app-files', 'Files in apps', { carved: true })
export const previewsDefinition = filesDefinition('previews', 'Small previews', {
  layouts: ['grid'],
  contents: 'picture',
  onlyByName: true,
})
export const musicDefinition = filesDefinition('music', 'Music', { contents: 'sound' })
export const ringtonesDefinition = filesDefinition('ringtones', 'Ringtones', { contents: 'sound' })
export const booksDefinition = filesDefinition('books', 'Books', {})
export const straysDefinition = filesDefinition('strays', 'Strays', {
  formats: ['original'],
  untouchedByRestore: true,
})
export const otherFilesDefinition = filesDefinition('other-files', 'Other files', { formats: ['original'] })
