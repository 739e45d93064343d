/** What a quantity is usually compared with: in a sentence about a pair, and as a record names it. */
export interface Reference {
  says: string
  record: string
}

const REFERENCES: Readonly<Record<string, Reference>> = {
  length: { says: 'what the tape says', record: 'tape measure' },
  temperature: { says: 'what a thermometer you trust says', record: 'reference thermometer' },
  humidity: { says: 'what a hygrometer or a salt jar says', record: 'reference humidity' },
  pressure: { says: 'what a barometer says', record: 'reference barometer' },
  illuminance: { says: 'what a light meter says', record: 'light meter' },
  light: { says: 'what a light meter says', record: 'light meter' },
  current: { says: 'what a clamp meter says', record: 'clamp meter' },
  power: { says: 'what a power meter says', record: 'power meter' },
  voltage: { says: 'what a voltmeter says', record: 'voltmeter' },
  sound: { says: 'what a sound level meter beside it says', record: 'sound level meter' },
  flow: { says: 'what a measured vessel and a watch say', record: 'vessel and watch' },
  volume: { says: 'what a measured vessel says', record: 'vessel' },
  moisture: { says: 'what you know of the ground: dry or wet', record: 'known state' },
}

/** What this quantity is compared with; something you trust where nothing in particular is usual. */
export const referenceFor = (quantity: string): Reference =>
  REFERENCES[quantity] ?? { says: 'what something you trust says', record: 'reference' }
