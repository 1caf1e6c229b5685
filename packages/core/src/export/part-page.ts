import { partName } from './bag-parts.js'
import type { Tag } from './bag-types.js'
import { escapeHtml, page } from './html.js'

/**
 * The page at the top of a part that is not the first: says what lies here, and how all of it is looked at. Its name is no
 * other part's, so that nothing is overwritten where parts are laid together.
 * @param entry the file in the first part to open first, as a path from the top of that part
 */
export function partPage({
  title,
  number,
  count,
  entry,
}: {
  title: string
  number: number
  count: number
  entry: string
}): Tag {
  const name = partName(number, count)
  const body = `<h1>Part ${number} of ${count}</h1>
<p class="soft">${escapeHtml(title)}</p>
<p>The files of this part lie in the folder <a href="data/">data</a>. What shows all of them lies in the first part: open <code>${entry}</code> in the folder <code>${partName(1, count)}</code>.</p>
<h2>To have everything in one place</h2>
<ol><li>Make an empty folder on a disk with room for all ${count} parts.</li>
<li>Copy the contents of each folder, from <code>${partName(1, count)}</code> to <code>${partName(count, count)}</code>, into it. Where you are asked, merge folders of the same name, and keep either of two files of the same name: those are the lists of single parts, which are no longer needed.</li>
<li>Open <code>${entry}</code> there.</li></ol>
<h2>To check that nothing was changed</h2>
<p>In the folder of this part: <code>sha256sum -c manifest-sha256.txt</code>. In the folder with everything: <code>sha256sum -c manifest-of-all-parts.txt</code>.</p>`
  return [`${name}.html`, page(`${title}: part ${number} of ${count}`, body)]
}
