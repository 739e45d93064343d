/** Humidity over a saturated solution, %RH, as a polynomial in °C from the constant up, and where it was measured. */
interface Salt {
  name: string
  formula: string
  rh: readonly number[]
  fromC: number
  toC: number
  caution: string | null
}

/** Greenspan, J. Res. NBS 81A (1977) 89: each within 0.03 %RH of his table over its span. */
export const SALTS = {
  licl: {
    name: 'lithium chloride',
    formula: 'LiCl',
    rh: [11.2323, 0.00824245, -0.00021489],
    fromC: 5,
    toC: 40,
    caution: 'Lithium chloride is toxic: gloves, no kitchen vessel, out of the reach of children and animals.',
  },
  mgcl2: {
    name: 'magnesium chloride',
    formula: 'MgCl₂',
    rh: [33.6686, -0.00797397, -0.00108988],
    fromC: 5,
    toC: 40,
    caution: null,
  },
  k2co3: {
    name: 'potassium carbonate',
    formula: 'K₂CO₃',
    rh: [43.1315, 0.00147523],
    fromC: 5,
    toC: 30,
    caution: 'Potassium carbonate burns the eyes: goggles while it is stirred.',
  },
  mgno32: {
    name: 'magnesium nitrate',
    formula: 'Mg(NO₃)₂',
    rh: [60.3514, -0.299505],
    fromC: 5,
    toC: 40,
    caution: 'Nitrates feed a fire: keep it away from anything that burns.',
  },
  nacl: {
    name: 'table salt',
    formula: 'NaCl',
    rh: [75.5164, 0.0398321, -0.00265459, 2.848e-5],
    fromC: 5,
    toC: 40,
    caution: null,
  },
  kcl: {
    name: 'potassium chloride',
    formula: 'KCl',
    rh: [88.619, -0.19334, 0.000899706],
    fromC: 5,
    toC: 40,
    caution: null,
  },
  k2so4: {
    name: 'potassium sulfate',
    formula: 'K₂SO₄',
    rh: [98.7792, -0.0590502],
    fromC: 5,
    toC: 40,
    caution: null,
  },
} as const satisfies Record<string, Salt>
export type SaltName = keyof typeof SALTS

/** %RH over a saturated solution at a temperature; null outside the span it was measured in. */
export function saltHumidity(salt: SaltName, celsius: number): number | null {
  const { rh, fromC, toC }: Salt = SALTS[salt]
  if (!(celsius >= fromC && celsius <= toC)) return null
  return rh.reduceRight((sum, c) => sum * celsius + c, 0)
}
