import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'
import { ErrorBoundary } from './ErrorBoundary'
import { type Zoned, ZoneProvider } from './times'

const newClient = () => new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: false } } })

/** Of the page: what one island has asked for, another one need not ask for again. */
const ofPage = newClient()

/** What every island stands in: its questions to the server, the zone of its times, and the way out when it fails. */
export function Island({ zone = 'UTC', children }: Partial<Zoned> & { children: ReactNode }) {
  // On the server each page that is rendered has a client of its own.
  const [client] = useState(() => (typeof window === 'undefined' ? newClient() : ofPage))
  return (
    <ErrorBoundary>
      <QueryClientProvider client={client}>
        <ZoneProvider value={zone}>{children}</ZoneProvider>
      </QueryClientProvider>
    </ErrorBoundary>
  )
}
