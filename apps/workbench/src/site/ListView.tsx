import type { SiteKind } from '@lumbrin/core/export/site/shapes'
import { countWords } from './GalleryView'
import { ItemRows } from './ItemRows'
import { PageHead } from './Page'
import { linkTo } from './parts'

/** The items of a kind, the newest first. */
export function ListView({ kind }: { kind: SiteKind }) {
  return (
    <>
      <PageHead title={kind.label} words={countWords(kind)}>
        <a className="button" href={linkTo(kind.plain)}>
          For printing
        </a>
      </PageHead>
      <ItemRows label={kind.label} count={kind.to - kind.from} numberAt={(row) => kind.from + row} />
    </>
  )
}
