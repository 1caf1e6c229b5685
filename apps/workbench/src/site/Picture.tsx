import { LAID_TOGETHER } from '@lumbrin/core/export/site/shapes'
import { useState } from 'react'
import { usePartWords } from './InPart'
import { linkTo } from './parts'

/** A picture that leads to its file; places are those in the package. Where it cannot be shown, it says what may help. */
export function Picture({ file, shown, title }: { file: string; shown: string; title: string }) {
  const [broken, setBroken] = useState(false)
  if (broken) return <Unshown file={file} title={title} why="This picture cannot be shown here." />
  return (
    <a href={linkTo(file)}>
      <img
        src={linkTo(shown)}
        alt={title}
        onError={() => setBroken(true)}
        className="max-h-[72vh] max-w-full rounded-sm"
      />
    </a>
  )
}

/** In the place of a picture or film that the browser cannot show. */
export function Unshown({ file, title, why }: { file: string; title: string; why: string }) {
  const part = usePartWords(file)
  return (
    <p className="max-w-prose py-2">
      {why} {part !== null && `It came in ${part}. ${LAID_TOGETHER} `}
      <a className="underline" href={linkTo(file)}>
        Open the file {title}
      </a>
    </p>
  )
}
