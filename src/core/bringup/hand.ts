import { traitsOf } from '../catalog/drivers'
import { cautionsOf, type Channel } from '../catalog/part'
import { inOrder, lineKeyOf, type Signal } from '../model/design'
import { channelOf } from '../publish/channelOf'
import type { BringingUp } from './bringUpPlan'
import { farHandSteps } from './farThings'
import { lineName, planLines } from '../lines/lines'
import type { BringUpStep, Cause } from './step'

/** How a person provokes a reading, by what it measures. */
const BY_QUANTITY: Partial<Record<string, string>> = {
  temperature: 'Hold it in a closed hand for half a minute.',
  humidity: 'Breathe on it from close by.',
  distance: 'Move a flat board towards it and away again.',
  level: 'Move a flat board towards it and away again.',
  brightness: 'Cover it with a hand.',
  moisture: 'Touch its lower half with a wet finger.',
  pressure: 'Carry it up a flight of stairs, or press air into its opening gently.',
  sound: 'Clap your hands near it.',
  supply: 'Change the supply by a tenth of a volt, or compare with a meter.',
  flow: 'Blow through it gently.',
  weight: 'Put a known weight on it.',
}
/** By driver, where that says more. */
const BY_DRIVER: Partial<Record<Channel['driver'], string>> = {
  contact: 'Open and close it, with its magnet where it has one.',
  presence: 'Move in front of it; then keep still until it says so.',
  button: 'Press it.',
  key: 'Press each key in turn.',
  ladder: 'Press each key in turn.',
  expander: 'Press each key in turn.',
  encoder: 'Turn it one click to each side.',
  counter: 'Let it count: spin it, or let a little through.',
  radio: 'Let something send that it can hear.',
  ranger: 'Move a flat board towards it and away again.',
  onewire: 'Hold it in a closed hand for half a minute.',
  levels: 'Bring the reading it is made of over its threshold and back.',
}
const INPUT_CAUSES: readonly Cause[] = [
  {
    side: 'any',
    why: 'it sits on another pin than planned',
    tells: 'Measure at the planned pin while you provoke it: its voltage has to change there.',
  },
  { side: 'any', why: 'it has no supply', tells: 'Measure between its own supply and ground terminals.' },
  {
    side: 'any',
    why: 'two wires have changed places',
    tells: 'Compare the ferrules with the wire schedule, wire by wire.',
  },
]

const provoke = (channel: Channel): string =>
  BY_DRIVER[channel.driver] ?? BY_QUANTITY[channel.quantity] ?? 'Change what it measures, as far as a hand can.'

/** Stage 8: each input provoked and seen, each output toggled, its load off and then on. */
export function handSteps(of: BringingUp): BringUpStep[] {
  const { design, catalog } = of
  return inOrder(design.signals).flatMap(({ id, value: signal }): BringUpStep[] => {
    const channel = channelOf(design, catalog, signal)
    if (!channel) return []
    const lines = planLines(design, catalog)
      .filter((l) => channel.lines.some((t) => l.key === lineKeyOf(signal.partId, t)))
      .filter((l) => design.plan.pins[l.key] !== undefined)
      .map((l) => ({ key: l.key, name: lineName(l) }))
    const steps =
      channel.access === 'output' ? switchingSteps(of, id, signal, channel) : [inputStep(id, signal, channel)]
    return steps.map((s) => ({ ...s, lines }))
  })
}

function inputStep(id: string, signal: Signal, channel: Channel): BringUpStep {
  const event = channel.access === 'event'
  return {
    key: `hand:${id}`,
    stage: 8,
    title: `${signal.name} by hand`,
    how: `${provoke(channel)} It ticks itself when it is seen here.`,
    why: 'Wire, pin, conditioning and topic in one: what the hand does has to arrive.',
    expect: { kind: 'seen', what: event ? 'the event arrives' : 'the value follows the hand' },
    causes: INPUT_CAUSES,
    watch: event ? { of: 'told', signalId: id } : { of: 'moved', signalId: id, ...asNumber(signal, channel) },
    caution: null,
    bench: { path: '/pins', words: 'It sits on another pin: carry it back on the Pins bench' },
    signalId: id,
  }
}

function asNumber({ publish }: Signal, { access }: Channel) {
  if (access !== 'reading') return {}
  return { number: { by: 2 * publish.change, unit: publish.unit, decimals: publish.decimals } }
}

function switchingSteps(of: BringingUp, id: string, signal: Signal, channel: Channel): BringUpStep[] {
  return traitsOf(channel.driver).far ? farHandSteps(id, signal) : outputSteps(of, id, signal)
}

function outputSteps(of: BringingUp, id: string, signal: Signal): BringUpStep[] {
  const part = of.design.parts[signal.partId]
  const kind = part && of.catalog.parts[part.kind]
  const [caution] = kind ? cautionsOf(kind, part.settings) : []
  const said = caution ? { title: caution.caution.title, text: caution.caution.text } : null
  const base = { stage: 8 as const, signalId: id, watch: { of: 'commanded' as const, signalId: id } }
  return [
    {
      ...base,
      key: `dry:${id}`,
      title: `${signal.name}, its load disconnected`,
      how: 'Take the load off its terminals. Switch it on and off from the Loom; listen, or measure at the terminals.',
      why: 'An output on the wrong pin, or the wrong way round, is found here for nothing.',
      expect: { kind: 'seen', what: 'on when told on, off when told off' },
      causes: [
        {
          side: 'any',
          why: 'it is on when told off: its active level is the other one',
          tells: 'Measure the control line while it is told off.',
        },
        { side: 'any', why: 'it sits on another pin', tells: 'Measure at the planned pin while it is told on.' },
        {
          side: 'any',
          why: 'its driver stage has no supply',
          tells: 'Measure its supply while it is told on: does it fall?',
        },
      ],
      caution: null,
      bench: { path: '/parts', words: 'Its active level is another: set it on the Parts bench' },
    },
    {
      ...base,
      key: `load:${id}`,
      title: `${signal.name}, its load connected`,
      how: 'Supply off, load on, supply on. Keep out of the way of what moves, heats or flows. Switch it on for a second.',
      why: 'What the load draws, and what it does to the rest, shows only now.',
      expect: { kind: 'seen', what: 'the load works, and the node stays online' },
      causes: [
        {
          side: 'any',
          why: 'the node drops out: the load pulls its supply down',
          tells: 'Measure the board’s supply while it switches on.',
        },
        {
          side: 'any',
          why: 'nothing happens: the load has no supply of its own',
          tells: 'Measure across the load while it is told on.',
        },
      ],
      caution: said ?? {
        title: 'Clear of what moves',
        text: 'Nobody’s hand, sleeve or tool is where the load moves, heats or flows, and somebody stands at the switch.',
      },
      bench: { path: '/power', words: 'The load draws otherwise: keep what the meter showed on the Power bench' },
    },
  ]
}
