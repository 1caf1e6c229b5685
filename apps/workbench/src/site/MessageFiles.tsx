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

function OneFile({ file: { name, mime, place, preview } }: { file: SiteFile }) {
  if (place === null) return <span className="text-soft">{name || 'A file'} (its content is not in the package)</span>
  const address = linkTo(place)
  if (mime.startsWith('audio/'))
    return (
      <>
        {/* biome-ignore lint/a11y/useMediaCaption: what was recorded has no captions */}
        <audio controls preload="none" src={address} className="max-w-full" />
        <InPart place={place} />
      </>
    )
  return (
    <>
      <a href={address} className="underline">
        {preview ? (
          <img src={linkTo(preview)} alt={name} loading="lazy" className="h-40 rounded-sm object-cover" />
        ) : (
          name
        )}
      </a>
      <InPart place={place} />
    </>
  )
}
