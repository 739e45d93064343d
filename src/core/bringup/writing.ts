import type { BringingUp } from './bringUpPlan'
import { MAINS_OFF } from './rails'
import { type BringUpStep, PLAIN } from './step'

/** Stage 5: interpreter and files onto the board. */
export function writingSteps(of: BringingUp): BringUpStep[] {
  return [
    {
      ...PLAIN,
      key: 'written',
      stage: 5,
      title: 'Interpreter and files',
      how: `On the Program bench, under Write the board. ${of.board.download?.hold ?? ''}`.trim(),
      why: 'Without them the chip does nothing.',
      expect: { kind: 'seen', what: 'written, compared, read back' },
      causes: [
        { side: 'any', why: 'no port appears', tells: 'Another cable: does a phone charge by it and no more?' },
        {
          side: 'any',
          why: 'writing does not begin',
          tells: 'Hold the button by hand; take off what is wired to the pin it pulls.',
        },
        { side: 'any', why: 'another chip than the design says', tells: 'The page names the one it found.' },
      ],
      watch: { of: 'written' },
      caution: of.mains ? MAINS_OFF : null,
    },
  ]
}

/** Stage 6: what it says when it starts. */
export function startSteps(_: BringingUp): BringUpStep[] {
  return [
    {
      ...PLAIN,
      key: 'start-up',
      stage: 6,
      title: 'Start-up text',
      how: 'On the Program bench, Start it anew and listen; or paste what another program heard below.',
      why: 'It says which of chip, supply, image, files and network is in the way.',
      expect: { kind: 'seen', what: 'as far as the broker, and the first readings' },
      causes: [
        {
          side: 'any',
          why: 'it stops before',
          tells: 'The line on top of the text says what is wrong and what to try first.',
        },
      ],
      watch: { of: 'started' },
    },
  ]
}

/** Weaker than this a node drops out now and then, dBm; stronger than this nothing is heard so. */
export const STRENGTH = { least: -75, most: -20 } as const

/** Stage 7: network and broker, on the bench. */
export function networkSteps(of: BringingUp): BringUpStep[] {
  const { network } = of.design
  return [
    {
      ...PLAIN,
      key: 'strength:bench',
      stage: 7,
      title: 'Strength on the bench',
      how: 'The node fed, its antenna free of metal and hand. The value comes by itself; it can be entered, too.',
      why: 'What the bench hears is what the place where it hangs is compared with.',
      expect: { kind: 'value', unit: 'dBm', min: STRENGTH.least, max: STRENGTH.most, working: null },
      causes: [
        {
          side: 'low',
          why: 'the antenna lies on metal, or a wire lies over it',
          tells: 'Turn the board so that its antenna points into the room: it rises at once.',
        },
        {
          side: 'low',
          why: 'the access point is far, or behind a wall with metal in it',
          tells: 'Two metres from it: above −50 dBm the board is fine.',
        },
        {
          side: 'low',
          why: 'a socket for an outside antenna is chosen on the board and none is in it',
          tells: 'Look at the small resistor beside the socket.',
        },
        { side: 'high', why: 'the board lies on the access point', tells: 'Move it two metres away.' },
      ],
      watch: { of: 'strength' },
    },
    {
      ...PLAIN,
      key: 'broker',
      stage: 7,
      title: 'In at the broker',
      how: `The node joins “${network.ref}” and logs in; this ticks itself.`,
      why: 'From here on everything else shows on the pages.',
      expect: { kind: 'seen', what: 'online' },
      causes: [
        { side: 'any', why: 'wrong password of the network', tells: 'The start-up text says so by its number.' },
        {
          side: 'any',
          why: 'the broker’s address has changed, or is not let through',
          tells: 'Another device in the same network: does it reach that address and port?',
        },
        {
          side: 'any',
          why: 'an earlier login',
          tells: 'The start-up text says code 4: make the bundle anew and put it on.',
        },
      ],
      watch: { of: 'online' },
    },
  ]
}
