import { inOrder } from '../model/design'
import { GROUND, groundOfRail, groundsOf } from '../power/grounds'
import { railLoads } from '../power/railLoads'
import { type FeedRail, railsOf } from '../power/rails'
import { amps, ohms, volts } from '../units/format'
import { step as working } from '../working/working'
import type { BringingUp } from './bringUpPlan'
import { type BringUpStep, type Cause, PLAIN } from './step'

const WIRES = { path: '/wires', words: 'It was wired otherwise: say so on the Wires bench' }
const PARTS = { path: '/parts', words: 'It is fed otherwise: say so on the Parts bench' }

/** Rails somebody may put a meter on, and that something hangs on. */
function rails(of: BringingUp): FeedRail[] {
  const used = new Set(inOrder(of.design.parts).flatMap(({ value }) => Object.values(value.feeds)))
  used.add('3V3')
  if (of.design.boardFeed !== null) used.add(of.design.boardFeed)
  return railsOf(of.design, of.board, of.catalog).filter((r) => used.has(r.id) && r.isolated && r.through === null)
}

/** What a meter's black lead goes to. */
const against = (of: BringingUp, rail: string): string =>
  groundOfRail(groundsOf(of.design, of.catalog), rail) === GROUND ? 'ground' : 'its own 0 V'

/** Stage 1: nothing fed yet. */
export function railOhmSteps(of: BringingUp): BringUpStep[] {
  const feeds = rails(of).filter(
    (r) => r.partId !== null || r.id === of.design.boardFeed || r.id === of.board.supply.rail,
  )
  const kinds = feeds.map((r): BringUpStep => ({
    ...PLAIN,
    key: `feed:${r.id}`,
    stage: 1,
    title: `What feeds ${r.name}`,
    how: `Read the print on what feeds it: ${r.ac ? 'AC' : 'DC'}, ${volts(r.min)} to ${volts(r.max)}, at least ${amps(r.limitA)}. Follow plus and minus from the source to the board with a finger.`,
    why: 'A supply of the other kind, or the wrong way round, ends the board in the first second.',
    expect: { kind: 'seen', what: `${r.ac ? 'AC' : 'DC'}, right voltage, plus to plus` },
    causes: [],
    caution: null,
    bench: PARTS,
  }))
  return [
    ...kinds,
    ...rails(of).map((r): BringUpStep => {
      const least = Math.ceil((2 * r.max) / r.limitA)
      return {
        ...PLAIN,
        key: `ohm:${r.id}`,
        stage: 1,
        title: `${r.name} against ${against(of, r.id)}, without power`,
        how: 'Nothing fed, the board not in its socket, capacitors discharged. Meter on ohms, red on the rail, black on the ground of that rail; wait until the reading stands.',
        why: `Below ${ohms(least)} more than half of what feeds it would flow.`,
        expect: {
          kind: 'value',
          unit: 'Ω',
          min: least,
          max: Number.POSITIVE_INFINITY,
          working: {
            steps: [
              working(
                'least resistance',
                '2 · U_max / I_limit',
                `2 · ${volts(r.max)} / ${amps(r.limitA)}`,
                ohms(least),
              ),
            ],
            source: `${r.source}, as its data sheet and the design state it`,
          },
        },
        causes: [
          {
            side: 'low',
            reads: 0.3,
            why: 'two wires touch, or a bridge of solder joins the rail to ground',
            tells: 'Take the parts of this rail off one by one: a short between wires stays when all are off.',
          },
          {
            side: 'low',
            why: 'a part sits the wrong way round',
            tells: 'The resistance jumps up when that part comes off; compare its print with the drawing.',
          },
          { side: 'low', why: 'a capacitor is still charging', tells: 'Wait: the reading climbs.' },
        ],
        caution: of.mains ? MAINS_OFF : null,
        bench: WIRES,
      }
    }),
  ]
}

export const MAINS_OFF = {
  title: 'Mains off and away',
  text: 'Something this node switches or measures is at mains voltage. Switch it off at its breaker, see that it is dead, and disconnect it. It stays disconnected until the last stages. Work on mains is for licensed people; local codes come first.',
}

/** Stage 2: each rail for itself, the chip not yet fed. */
export function railVoltSteps(of: BringingUp): BringUpStep[] {
  return rails(of)
    .filter((r) => r.id !== '3V3')
    .map((r) => {
      const converter = of.design.parts[r.partId ?? '']
      const causes: Cause[] = [
        {
          side: 'low',
          reads: 0,
          why: 'nothing feeds it: a wire, a fuse or a switch',
          tells: 'Measure from the source towards the rail: the last place with voltage is before the break.',
        },
        {
          side: 'low',
          why: 'it is loaded more than it stands',
          tells: 'Take the parts off one by one: it rises with the one that is too much.',
        },
        ...(converter
          ? [
              {
                side: 'low' as const,
                why: `${converter.label} gets too little at its input`,
                tells: 'Measure its input: it has to be above its output, at full load too.',
              },
            ]
          : []),
        {
          side: 'high',
          why: converter
            ? `${converter.label} is set or chosen for another voltage`
            : 'another supply than the design says',
          tells: converter
            ? 'Turn it with nothing connected behind it, or read its print.'
            : 'Read the print on the supply.',
        },
        {
          side: 'high',
          why: 'a supply without a load stands above what is printed on it',
          tells: `Put a resistor of a few hundred ohm across it: it comes down to ${volts(r.max)}.`,
        },
      ]
      return {
        ...PLAIN,
        key: `volt:${r.id}`,
        stage: 2 as const,
        title: `${r.name} before the chip goes in`,
        how: `Fed from ${r.source}, the board still not in its socket. Meter on volts ${r.ac ? 'AC' : 'DC'}, red on the rail, black on ${against(of, r.id)}.`,
        why: 'The parts on this rail stand no more, and work with no less.',
        expect: { kind: 'value' as const, unit: 'V' as const, min: r.min, max: r.max, working: null },
        causes,
        caution: null,
        bench: PARTS,
      }
    })
}

/** Stage 3: the board in, on its regulated rail and by its current. */
export function chipSteps(of: BringingUp): BringUpStep[] {
  const { design, board, catalog } = of
  const regulated = railsOf(design, board, catalog).find((r) => r.id === '3V3')
  const feed = design.boardFeed ?? board.supply.rail
  const loaded = railLoads(design, board, catalog).find((l) => l.rail.id === feed)
  const parts = loaded?.loads ?? []
  const least = Math.max(0.004, 0.4 * Math.min(board.currents.activeA, loaded?.idleA ?? board.currents.activeA))
  const most = (loaded?.startA ?? board.currents.radioPeakA) * 1.1
  const steps: BringUpStep[] = []
  if (loaded)
    steps.push({
      ...PLAIN,
      key: 'current',
      stage: 3,
      title: `Current into the board, ${loaded.rail.name}`,
      how: 'Power off, the board in its socket, the meter in series with the feed on its largest current range. Power on, and read when it stands.',
      why: `All that hangs on it together takes ${amps(loaded.idleA)} at rest and ${amps(loaded.startA)} at most.`,
      expect: {
        kind: 'value',
        unit: 'A',
        min: least,
        max: most,
        working: {
          steps: [
            ...parts
              .slice(0, 12)
              .map((p) =>
                working(p.label, 'at rest … at most', `${amps(p.idleA)} … ${amps(p.startA)}`, amps(p.startA)),
              ),
            working('all together, and a tenth for the meter', 'Σ · 1.1', `${amps(loaded.startA)} · 1.1`, amps(most)),
          ],
          source: 'data sheets of the parts, by class',
        },
      },
      causes: [
        {
          side: 'low',
          reads: 0,
          why: 'the board gets nothing: polarity, a diode the wrong way round, a wire',
          tells: 'Measure at the board’s own supply pin.',
        },
        { side: 'low', why: 'it is held in its reset, or sleeps', tells: 'Measure the reset pin: it has to be high.' },
        {
          side: 'high',
          why: 'a part is the wrong way round or damaged',
          tells: 'Which one becomes warm within seconds? Take it off: the current falls by what it took.',
        },
        {
          side: 'high',
          why: 'an output drives against another, or a load is on',
          tells: 'Take the wires of the outputs off: the current falls.',
        },
      ],
      caution: null,
      bench: { path: '/power', words: 'Keep what the meter showed in place of an estimate, on the Power bench' },
    })
  if (regulated)
    steps.push({
      ...PLAIN,
      key: 'volt:3V3',
      stage: 3,
      title: `${regulated.name} with the board in`,
      how: 'Meter on volts DC between the board’s regulated output and ground.',
      why: `Below ${volts(board.waking.brownoutV.high)} the chip starts anew at the radio’s first burst.`,
      expect: { kind: 'value', unit: 'V', min: regulated.min, max: regulated.max, working: null },
      causes: [
        {
          side: 'low',
          reads: 0,
          why: 'the board is not fed, or its regulator is dead',
          tells: `Measure ${board.supply.rail}: with ${volts(board.supply.minV)} there and nothing here it is the regulator.`,
        },
        {
          side: 'low',
          why: 'too much hangs on the regulated rail',
          tells: 'Take the parts off: it rises with the one that is too much.',
        },
        {
          side: 'high',
          why: 'a part passes its own higher voltage into the rail',
          tells: 'Take the wires of the parts with a higher supply off one by one.',
        },
      ],
      caution: null,
      bench: WIRES,
    })
  return steps
}
