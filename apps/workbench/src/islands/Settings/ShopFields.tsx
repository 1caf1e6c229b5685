import { useState } from 'react'
import { Failure } from '../../components/Failure'
import type { Shop } from '../../domain/settings'

// As an address in base64 it takes a third more.
const MOST_BYTES = 350_000

interface Props {
  shop: Shop
  change: (shop: Shop) => void
}

/** Who hands over, as reports and receipts begin: name, address and mark. */
export function ShopFields({ shop, change }: Props) {
  const [refused, setRefused] = useState('')
  const take = async (file: File | undefined) => {
    if (!file) return
    const fits = /^image\/(png|jpeg)$/.test(file.type) && file.size <= MOST_BYTES
    setRefused(fits ? '' : 'The mark is a PNG or JPEG picture of at most 350 kB. The one before was kept.')
    if (fits) change({ ...shop, mark: await addressOf(file) })
  }
  return (
    <fieldset className="space-y-3">
      <legend className="mb-1">
        <span className="font-semibold">Head of reports and receipts</span>{' '}
        <span className="text-sm text-soft">what owners read first; empty: none</span>
      </legend>
      <label className="block">
        <span className="mb-1 block text-sm">Name of the shop</span>
        <input
          className="field"
          maxLength={120}
          value={shop.name}
          onChange={(event) => change({ ...shop, name: event.target.value })}
        />
      </label>
      <label className="block">
        <span className="mb-1 block text-sm">Address, as on an envelope</span>
        <textarea
          rows={3}
          maxLength={500}
          className="field"
          value={shop.address}
          onChange={(event) => change({ ...shop, address: event.target.value })}
        />
      </label>
      <div className="flex items-center gap-4">
        <label className="block">
          <span className="mb-1 block text-sm">Mark (PNG or JPEG)</span>
          <input
            className="field w-auto"
            type="file"
            accept="image/png,image/jpeg"
            onChange={(event) => void take(event.target.files?.[0])}
          />
        </label>
        {shop.mark && (
          <>
            <img src={shop.mark} alt="The mark" className="max-h-14 max-w-40" />
            <button type="button" className="button" onClick={() => change({ ...shop, mark: null })}>
              Remove the mark
            </button>
          </>
        )}
      </div>
      <Failure>{refused}</Failure>
    </fieldset>
  )
}

const addressOf = (file: File): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(String(reader.result))
    reader.onerror = () => reject(reader.error)
    reader.readAsDataURL(file)
  })
