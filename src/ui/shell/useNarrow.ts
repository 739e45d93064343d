import { useSyncExternalStore } from 'react'

/** The width below which everything stands in one column; the same as in the theme. */
const NARROW = '(max-width: 900px)'

function subscribe(changed: () => void): () => void {
  const media = window.matchMedia(NARROW)
  media.addEventListener('change', changed)
  return () => media.removeEventListener('change', changed)
}

/** True on a screen as narrow as a phone's. */
export const useNarrow = (): boolean =>
  useSyncExternalStore(
    subscribe,
    () => window.matchMedia(NARROW).matches,
    () => false,
  )
