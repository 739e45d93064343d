import type { Place } from './Shell'

export const SHOP_PLACES: Place[] = [
  { digit: 'S', name: 'Shop', href: '/' },
  { digit: 'H', name: 'Shelf', href: '/shelf' },
  { digit: 'L', name: 'Ledger', href: '/ledger' },
  { digit: ',', name: 'Settings', href: '/settings' },
]

/** Demo only: the simulated boards and what can be done to them. */
export const STANDINS_PLACE: Place = { digit: 'D', name: 'Stand-ins', href: '/standins' }

/** Benches in the order of the work, each with its fixed digit. */
export function benchPlaces(slug: string): Place[] {
  const at = (path: string) => `/node/${slug}${path}`
  return [
    { digit: '0', name: 'Loom', href: at('') },
    { digit: '1', name: 'Parts', href: at('/parts') },
    { digit: '2', name: 'Pins', href: at('/pins') },
    { digit: '3', name: 'Wires', href: at('/wires') },
    { digit: '5', name: 'Program', href: at('/program') },
    { digit: '7', name: 'Tune', href: at('/tune') },
    { digit: '8', name: 'Publish', href: at('/publish') },
  ]
}
