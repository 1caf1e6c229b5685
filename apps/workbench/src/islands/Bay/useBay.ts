import { useAsk } from '../../components/useAsk'

const ASK_MS = 2000

/** The bay as it is, looked at every two seconds while the page is open. */
export function useBay() {
  const { answer: bay, failed, again } = useAsk('GET /api/bay', {}, { every: ASK_MS })
  return { bay, failed, look: async () => void (await again()) }
}
