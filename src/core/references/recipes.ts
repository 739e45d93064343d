import { boilingC, pressureAt } from './boiling'
import { saltHumidity, type SaltName, SALTS } from './salts'

/** What has to be known beside it. */
export interface Asked {
  name: string
  unit: string
  usual: number
}

export interface Recipe {
  id: string
  title: string
  quantity: 'temperature' | 'humidity'
  asks: Asked | null
  /** The true value, °C or %RH, from what was asked; null where that is outside what is known. */
  value: (asked: number) => number | null
  /** Standard uncertainty at home, of this reference by itself. */
  u: number
  waitMinutes: number
  how: readonly string[]
  cautions: readonly string[]
}

const ICE: Recipe = {
  id: 'ice',
  title: 'ice bath',
  quantity: 'temperature',
  asks: null,
  value: () => 0,
  // ± 0.1 °C, anywhere between equally likely.
  u: 0.06,
  waitMinutes: 10,
  how: [
    'Crush ice, two thirds of a tall insulated vessel, and fill up with cold clean water until it just does not float.',
    'Keep the sensor in the middle, away from wall and bottom, wrapped thin against the wet if it is not sealed.',
    'Stir, wait, stir again; take the pair when the reading has not moved for a minute.',
  ],
  cautions: [],
}

const boiling = (id: string, asks: Asked, hPa: (asked: number) => number, u: number): Recipe => ({
  id,
  title: `boiling water, by ${asks.name}`,
  quantity: 'temperature',
  asks,
  value: (asked) => {
    const p = hPa(asked)
    return p >= 300 && p <= 1100 ? boilingC(p) : null
  },
  u,
  waitMinutes: 5,
  how: [
    'Boil clean water strongly in a deep pot with a lid ajar.',
    'Hold the sensor in the steam just above the water for the best value, or in the water clear of the bottom.',
    'Only sensors that stand 100 °C by their sheet; cables and glue too.',
  ],
  cautions: ['Steam and boiling water scald: clamp the sensor, do not hold it; keep mains parts and children away.'],
})

const jar = (salt: SaltName): Recipe => {
  const { name, formula, caution } = SALTS[salt]
  return {
    id: `jar-${salt}`,
    title: `jar over ${name}, ${formula}`,
    quantity: 'humidity',
    asks: { name: 'temperature in the jar', unit: '°C', usual: 21 },
    value: (celsius) => saltHumidity(salt, celsius),
    u: 1,
    waitMinutes: 12 * 60,
    how: [
      'Wet the salt to a slush in a small dish; undissolved salt must remain all the time.',
      'Put sensor and dish into a tight jar where no sun reaches it; the sensor must touch neither salt nor drops.',
      'Wait until hours bring no change, at a steady temperature, and read that temperature in the jar.',
    ],
    cautions: caution === null ? [] : [caution],
  }
}

/** References for the kitchen table, by what they are true for. */
export const RECIPES: readonly Recipe[] = [
  ICE,
  boiling('boiling', { name: 'air pressure here', unit: 'hPa', usual: 1013 }, (hPa) => hPa, 0.1),
  // Weather moves the pressure by some 10 hPa about that of the height: a third of a degree.
  boiling('boiling-high', { name: 'height above the sea', unit: 'm', usual: 100 }, pressureAt, 0.3),
  ...(Object.keys(SALTS) as SaltName[]).map(jar),
]
