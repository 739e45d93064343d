/** What a compatible but unwelcome pin costs. Higher is worse; only the comparison matters. */
export const WEIGHTS = {
  pulseOnHarmlessOutput: { cost: 40, why: 'it pulses while the chip starts; harmless for this line, but seen' },
  usb: { cost: 36, why: 'it is a data line of the USB socket, and the cable would be lost' },
  console: { cost: 30, why: 'it belongs to the console, and start-up text would be lost or heard by the part' },
  strap: {
    cost: 20,
    why: 'the chip samples it at reset; this line agrees with that, but every later change has to as well',
  },
  strapForCable: {
    cost: 16,
    why: 'it matters while a program is written over the cable: the part may have to come off for that',
  },
  pulseOnInput: { cost: 15, why: 'it pulses while the chip starts, and a closed contact would short the pulse' },
  addedPull: { cost: 12, why: 'it has no pull of its own, so a resistor must be added' },
  lamp: { cost: 8, why: 'the lamp on the board hangs on it' },
  falseLows: { cost: 7, why: 'it shows short false lows while the analog converter powers up' },
  larger: { cost: 6, why: 'larger modules of this class keep it for their memory' },
  glitch: { cost: 5, why: 'it may go low for microseconds when the supply comes up' },
  wakeSpent: { cost: 5, why: 'it could end the sleep, and only few pins of this board can' },
  dac: { cost: 4, why: 'it could make a true voltage, which few pins can' },
  analog: { cost: 3, why: 'it can measure a voltage even with the radio on, and this line only needs high and low' },
  offUsual: { cost: 4, why: 'it is not the usual place of this bus, and other people’s drawings will differ' },
  drives: { cost: 2, why: 'it could also drive, and this line only reads' },
  usualBus: { cost: 1, why: 'it is the usual place of a bus' },
} as const

export type WeightName = keyof typeof WEIGHTS

/** What two lines of one part cost together. */
export const TOGETHER = {
  edges: { cost: 1, why: 'lines of one part end at different edges of the board' },
  apart: { cost: 1, why: 'lines of one part are not on neighbouring pins' },
} as const
