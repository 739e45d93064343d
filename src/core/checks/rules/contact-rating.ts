import { engineering } from '../../units/format'
import { report, type Rule, signalOfPart } from '../context'

interface Load { volts: number; ac: boolean; inrush: number; kind: string }
/** What hangs on a contact, by the words of its setting. Inrush as a multiple of the current it goes on with. */
const LOADS: Record<string, Load> = {
  'lamp up to 24 V': { volts: 24, ac: false, inrush: 10, kind: 'a lamp, cold' },
  pump: { volts: 12, ac: false, inrush: 6, kind: 'a motor starting' },
  'contactor with a mains load': { volts: 230, ac: true, inrush: 6, kind: 'a contactor’s coil pulling in' },
  'mains load': { volts: 230, ac: true, inrush: 10, kind: 'a mains load of unknown kind' },
  heater: { volts: 230, ac: true, inrush: 1, kind: 'a heater' },
}
const SOURCE = 'Contact data sheet for resistive load; lamps take about ten times, motors six times their current at the start.'

/** A contact that switches more than it is made for. */
export const contactRating: Rule = {
  id: 'contact-rating',
  severity: 'stop',
  when: 'What a contact switches, with its inrush, exceeds the contact’s rating.',
  source: SOURCE,
  check: ({ design, parts }) => parts.flatMap(({ id, part, kind }) => {
    const { contacts } = kind
    const load = LOADS[String(part.settings.load ?? '')]
    const loadA = part.settings.loadA
    if (!contacts || !load || typeof loadA !== 'number') return []
    const ratedV = load.ac ? contacts.acV : contacts.dcV
    const ratedA = load.ac ? contacts.acA : contacts.dcA
    const inrushA = loadA * load.inrush
    // Contacts make a short inrush of about three times their rating without welding.
    const trouble = load.volts > ratedV ? `${load.volts} V on contacts for ${ratedV} V` : loadA > ratedA ? `${engineering(loadA, 'A')} on contacts for ${engineering(ratedA, 'A')}` : inrushA > ratedA * 3 ? `${engineering(inrushA, 'A')} at the start (${load.kind}) on contacts for ${engineering(ratedA, 'A')}` : null
    if (trouble === null) return []
    return [report('contact-rating', id, {
      severity: 'stop', bench: 'parts', partId: id, signalId: signalOfPart(design, id), source: SOURCE,
      sentence: `${part.label}: ${trouble}. A contactor, a snubber, or a switch made for it.`,
      steps: [{ gives: 'at the start', formula: 'I · inrush', numbers: `${engineering(loadA, 'A')} · ${load.inrush}`, result: engineering(inrushA, 'A') }, { gives: 'stands for a moment', formula: '3 · I_rated', numbers: `3 · ${engineering(ratedA, 'A')}`, result: engineering(ratedA * 3, 'A') }],
    })]
  }),
}
