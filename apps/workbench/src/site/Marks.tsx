import type { SiteItem } from '@lumbrin/core/export/site/shapes'
import { StandingMark } from '../components/StandingMark'

/** How an item stands, where it is not simply there still. */
export const Standing = ({ item: { standing } }: { item: SiteItem }) =>
  standing === 'kept' ? null : <StandingMark standing={standing} label />

/** When an item was: by the clocks of the package's zone, with UTC in its hint. */
export function When({ item: { when, utc } }: { item: SiteItem }) {
  if (!when) return <span className="text-soft">no date</span>
  return (
    <time dateTime={when.replace(' ', 'T')} title={utc ? `${utc} UTC` : undefined} className="text-soft">
      {when}
    </time>
  )
}
