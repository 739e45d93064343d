import type { AddedComponent } from '../model/design'

export const COMPONENT_WORDS: Record<AddedComponent['type'], string> = {
  divider: 'a divider',
  pull: 'a pull resistor',
  series: 'a series resistor',
  capacitor: 'a capacitor',
  clamp: 'a suppressor diode',
  diode: 'a diode across the coil',
  driver: 'a transistor',
  optocoupler: 'an optocoupler',
  shifter: 'a level shifter',
  fuse: 'a fuse',
  bulk: 'a capacitor at the rail',
  'feed-diode': 'a diode in the feed of the board',
  bias: 'a middle voltage',
  burden: 'a burden',
  quench: 'a quench across a load',
}
