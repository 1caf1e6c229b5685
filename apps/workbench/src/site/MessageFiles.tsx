import type { SiteFile } from '@lumbrin/core/export/site/shapes'
import { InPart } from './InPart'
import { linkTo } from './parts'

/** Files that hang on a message: pictures as they are, all else by name. */
export function MessageFiles({ files }: { files: readonly SiteFile[] }) {
  return files.map((file, i) => (
    // Files of one message never change places, and two may be the same.
    // biome-ignore lint/suspicious/noArrayIndexKey: see above
    <div key={i} className="py-1">
      <OneFile file={file} />
    </div>
  ))
}

function OneFile({ file }: { file: SiteFile }) {
  const { name, place } = file
  if (place === null) return <span className="text-soft">{name || 'A file'} (its content is not in the package)</span>
  return (
    <>
      <Content file={file} address={linkTo(place)} />
      <InPart place={place} />
    </>
  )
}

function Content({ file: { name, mime, preview }, address }: { file: SiteFile; address: string }) {
  // biome-ignore lint/a11y/useMediaCaption: what was recorded has no captions
  if (mime.startsWith('audio/')) return <audio controls preload="none" src={address} className="max-w-full" />
  return (
    <a href={address} className="underline">
      {preview ? (
        <img src={linkTo(preview)} alt={name} loading="lazy" className="h-40 rounded-sm object-cover" />
      ) : (
        name
      )}
    </a>
  )
}
