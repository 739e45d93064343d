import type { Span } from '../../src/core/threshold/price'
import { normal, seeded } from './chance'

export interface RoomDay {
  s: Float64Array
  /** Distance, m; NaN without an echo. */
  value: Float64Array
  truth: Span[]
}

/**
 * Days of a made-up room before an ultrasonic ranger: people come for minutes or hours, sit nearer or farther, turn a
 * soft back that swallows echoes, and something flies past an empty room. The room keeps its wall and its places.
 */
export function room(seed: number, days: number, hours = 6, stepS = 1): RoomDay[] {
  const chance = seeded(seed)
  const wall = 2.2 + 2 * chance()
  const places = [0.4 + 0.5 * chance(), 0.8 + 0.7 * chance()].map((d) => Math.min(d, wall - 0.5))
  const soft = 0.02 + 0.25 * chance()
  const noise = 0.01 + 0.02 * chance()
  const flies = 0.0005 + 0.002 * chance()
  return Array.from({ length: days }, () => {
    const n = Math.round((hours * 3600) / stepS)
    const s = Float64Array.from({ length: n }, (_, i) => i * stepS)
    const value = new Float64Array(n)
    const truth: Span[] = []
    let at = 300 * chance()
    while (at < n * stepS) {
      const stays = 60 + 5400 * chance() ** 2
      truth.push({ from: Math.round(at), to: Math.min((n - 1) * stepS, Math.round(at + stays)) })
      at += stays + 120 + 3600 * chance()
    }
    let place = 0
    let swallowed = 0
    for (let i = 0; i < n; i++) {
      const t = i * stepS
      const here = truth.some((x) => t >= x.from && t < x.to)
      if (chance() < 0.002) place = Math.floor(chance() * places.length)
      if (swallowed > 0) swallowed -= 1
      else if (here && chance() < soft / 20) swallowed = Math.ceil(25 * chance())
      const stray = !here && chance() < flies
      const distance = stray
        ? 0.2 + (wall - 0.4) * chance()
        : here
          ? (places[place] ?? 1) + 0.08 * Math.sin(t / 7)
          : wall
      value[i] =
        here && swallowed > 0
          ? chance() < 0.5
            ? NaN
            : wall
          : chance() < 0.01
            ? NaN
            : distance + noise * normal(chance)
    }
    return { s, value, truth: truth.filter((x) => x.to > x.from) }
  })
}
