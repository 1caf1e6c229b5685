import { useMemo, useState } from 'react'
import { type MapPoint, OutlineMap } from '../components/OutlineMap'
import { plural } from '../domain/format'
import { ItemRows } from './ItemRows'
import { PageHead, Waiting } from './Page'
import { usePlaces } from './useParts'

/** Where things were made, on an outline of the world; nothing is asked of any service. */
export function PlacesView() {
  const { data, error } = usePlaces()
  const [picked, setPicked] = useState<readonly MapPoint[] | null>(null)
  const points = useMemo(
    () => data?.map(([id, longitude, latitude, lost]): MapPoint => ({ id, longitude, latitude, lost: lost === 1 })),
    [data],
  )
  if (!points) return <Waiting error={error} />
  return (
    <>
      <PageHead title="Map" />
      <OutlineMap
        points={points}
        noun="item"
        pick={setPicked}
        words={`${plural(points.length, 'item')} with a place; choose a mark`}
        empty={<p className="p-5">No item here has a place.</p>}
      />
      {picked && (
        <div className="flex h-60 shrink-0 flex-col border-t border-rule">
          <ItemRows
            key={picked[0]?.id}
            label="Items at this place"
            count={picked.length}
            numberAt={(row) => picked[row]?.id ?? 0}
            kinds
          />
        </div>
      )}
    </>
  )
}
