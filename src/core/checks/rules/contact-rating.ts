import { engineering } from '../../units/format'
import { statedLoad, type Load, switchesOf } from '../../power/switching'
import { type CheckContext, report, type Rule, signalOfPart } from '../context'

const SOURCE =
  'Contact data sheet for resistive load; lamps take about ten times, motors three to six times their current at the start.'
/** Contacts make a short inrush of about this many times their rating without welding. */
const MAKES = 3

interface Rated {
  volts: number
  a: number
  momentA: number
  what: string
}

/** A contact or a stage that switches more than it is made for. */
export const contactRating: Rule = {
  id: 'contact-rating',
  severity: 'stop',
  when: 'What a contact, a stage or a driver switches, with its start, exceeds what it is made for.',
  source: SOURCE,
  check: (context) => {
    const { design, catalog } = context
    const switches = switchesOf(design, catalog)
    return context.parts.flatMap(({ id, part, kind }) => {
      const mine = switches.filter((s) => s.partId === id)
      const joined = mine.flatMap((s) => s.loads)
      const stated = statedLoad(kind, part)
      const statedLoads = stated && stated.runA > 0 ? [stated] : []
      const loads = joined.length > 0 ? joined : statedLoads
      const over = loads.flatMap((load) => troubleOf(load, ratingOf(context, id, load), loads) ?? [])
      const [first] = over
      if (!first) return []
      const { load, words, rated, runA, startA } = first
      return [
        report(id, {
          bench: 'parts',
          partId: id,
          signalId: signalOfPart(design, id),
          sentence: `${part.label}: ${words}. A contactor, a snubber, or a switch made for it.`,
          steps: [
            {
              gives: 'goes on with',
              formula: 'Σ I',
              numbers: loads.map((l) => `${l.label} ${engineering(l.runA, 'A')}`).join(', '),
              result: `${engineering(runA, 'A')} of ${engineering(rated.a, 'A')}`,
            },
            {
              gives: 'at the start',
              formula: 'Σ I + largest start',
              numbers: `${load.label} ${engineering(load.startA, 'A')}`,
              result: engineering(startA, 'A'),
            },
            {
              gives: 'stands for a moment',
              formula: rated.momentA === rated.a * MAKES ? '3 · I_rated' : 'data sheet',
              numbers: engineering(rated.a, 'A'),
              result: engineering(rated.momentA, 'A'),
            },
          ],
        }),
      ]
    })
  },
}

function ratingOf({ catalog, design }: CheckContext, partId: string, load: Load): Rated | null {
  const kind = catalog.parts[design.parts[partId]?.kind ?? '']
  if (kind?.contacts) {
    const { acV, acA, dcV, dcA } = kind.contacts
    const [volts, a] = load.ac ? [acV, acA] : [dcV, dcA]
    return { volts, a, momentA: a * MAKES, what: 'contacts' }
  }
  for (const t of kind?.terminals ?? []) {
    if (t.role !== 'contact' || (t.does?.kind !== 'sinks' && t.does?.kind !== 'drives')) continue
    return {
      volts: t.does.kind === 'sinks' ? t.does.maxV : Infinity,
      a: t.does.maxA,
      momentA: t.does.peakA,
      what: t.does.kind === 'sinks' ? 'a transistor' : 'a driver',
    }
  }
  return null
}

function troubleOf(
  load: Load,
  rated: Rated | null,
  all: readonly Load[],
): { load: Load; words: string; rated: Rated; runA: number; startA: number } | null {
  if (!rated) return null
  const runA = all.reduce((s, l) => s + l.runA, 0)
  const startA = runA + Math.max(0, ...all.map((l) => l.startA - l.runA))
  const at = { load, rated, runA, startA }
  const on = `on ${rated.what} for`
  if (load.ac && rated.what === 'a transistor')
    return { ...at, words: `${load.label} is fed with alternating current, which a transistor to ground cannot switch` }
  if (load.volts > rated.volts) return { ...at, words: `${load.volts} V ${on} ${rated.volts} V` }
  if (runA > rated.a) return { ...at, words: `${engineering(runA, 'A')} ${on} ${engineering(rated.a, 'A')}` }
  if (startA > rated.momentA)
    return {
      ...at,
      words: `${engineering(startA, 'A')} at the start (${STARTS[load.kind]}) ${on} ${engineering(rated.a, 'A')}`,
    }
  return null
}

const STARTS = {
  lamp: 'a lamp, cold',
  motor: 'a motor starting',
  coil: 'a coil pulling in',
  capacitive: 'a capacitor filling',
  resistive: 'a heater',
  unknown: 'a load of unknown kind',
} as const
