import type { Catalog } from '../catalog/catalog'
import { cellOf } from '../energy/cellOf'
import type { Design } from '../model/design'
import type { BringingUp } from './bringUpPlan'
import { STRENGTH } from './writing'
import { type BringUpStep, PLAIN } from './step'

/** Stage 10: into its box, closed, before any mains. */
export function boxSteps(of: BringingUp): BringUpStep[] {
  return [
    {
      ...PLAIN,
      key: 'box',
      stage: 10,
      title: 'Into its box, and closed',
      how: 'No bare strand, every cable held by its own relief, antenna away from metal; then the lid on.',
      why: 'What is touched by a lid or pulled by a cable fails a month later.',
      expect: { kind: 'seen', what: 'closed, and still online' },
      causes: [
        {
          side: 'any',
          why: 'it drops out with the lid on',
          tells: 'Lid off: back? Then a wire is pinched, or the lid is metal.',
        },
      ],
      caution: null,
      watch: { of: 'online' },
    },
    ...(of.mains
      ? [
          {
            ...PLAIN,
            key: 'mains',
            stage: 10 as const,
            title: 'Mains, last',
            how: 'Whoever is licensed for it connects the mains to the closed box and switches it on from outside.',
            why: 'Everything else has been proven without it.',
            expect: { kind: 'seen' as const, what: 'the load works by command, the box stays cool' },
            causes: [
              { side: 'any' as const, why: 'the breaker falls', tells: 'Stop. This is for the licensed person.' },
            ],
            caution: {
              title: 'Licensed work',
              text: 'Mains is connected by licensed people under local codes. The box is closed, its cover earthed where it is metal, and the circuit has its own breaker and residual-current protection.',
            },
          },
        ]
      : []),
  ]
}

/** How much weaker than on the bench a place may be, dB, before it is said. */
const WEAKER_DB = 25

/** Stage 11: strength where it hangs, door or lid closed. */
export function siteSteps(_: BringingUp): BringUpStep[] {
  return [
    {
      ...PLAIN,
      key: 'strength:site',
      stage: 11,
      title: 'Strength where it hangs',
      how: 'In its place, door or lid closed, nobody between it and the access point. The value comes by itself.',
      why: `Below ${String(STRENGTH.least).replace('-', '−')} dBm it drops out now and then; more than ${WEAKER_DB} dB below the bench something stands in the way.`,
      expect: { kind: 'value', unit: 'dBm', min: STRENGTH.least, max: STRENGTH.most, working: null },
      causes: [
        { side: 'low', why: 'the door or the lid is metal', tells: 'Open it: the strength jumps by 10 dB or more.' },
        {
          side: 'low',
          why: 'the wall, the tank or the boiler between',
          tells: 'Hold the node half a metre to each side.',
        },
        { side: 'low', why: 'the antenna lies on the wall', tells: 'Turn the box by a quarter.' },
        {
          side: 'low',
          why: 'too far',
          tells: 'It falls evenly as you walk: another access point, or one with a better place.',
        },
      ],
      caution: null,
      watch: { of: 'strength' },
    },
  ]
}

/** How long a trial is proposed to last, days: what lives on a cell shows itself only in weeks. */
export const trialDays = (design: Design, catalog: Catalog): number =>
  cellOf(design, catalog) || design.sleep ? 14 : 2

/** Stage 12: days or weeks, where a cell or a new sensor is in it. */
export function trialSteps({ design, catalog }: BringingUp): BringUpStep[] {
  const days = trialDays(design, catalog)
  return [
    {
      ...PLAIN,
      key: 'trial',
      stage: 12,
      title: `Trial of ${days} days`,
      how: 'Start it here. Drop-outs, restarts, what it takes from its cell and how its readings drift are counted meanwhile, with the verdict at the end.',
      why: 'What fails once a day is not seen in an hour.',
      expect: { kind: 'seen', what: 'no drop-out longer than stated, no restart nobody asked for' },
      causes: [
        {
          side: 'any',
          why: 'drop-outs at the same hour',
          tells: 'What else happens then: a machine that starts, a door that closes?',
        },
        {
          side: 'any',
          why: 'restarts',
          tells: 'Health tells the cause of each: brownout is the supply, watchdog the program.',
        },
      ],
      caution: null,
    },
  ]
}
