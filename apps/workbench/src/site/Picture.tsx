import { useState } from 'react'

/** A picture that leads to its file. Where the file is not there or cannot be shown, it says what may help. */
export function Picture({ file, shown, title }: { file: string; shown: string; title: string }) {
  const [broken, setBroken] = useState(false)
  if (broken)
    return (
      <p className="max-w-prose py-2">
        This picture cannot be shown from this folder. If the package came in parts, copy the contents of all part
        folders into one folder and open the page there. Otherwise try to{' '}
        <a className="underline" href={file}>
          open the file {title}
        </a>
        .
      </p>
    )
  return (
    <a href={file}>
      <img src={shown} alt={title} onError={() => setBroken(true)} className="max-h-[72vh] max-w-full rounded-sm" />
    </a>
  )
}
