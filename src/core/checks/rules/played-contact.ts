import type { Design } from '../../model/design'
import { type CheckContext, type Reported, type Rule, report, signalOfPart } from '../context'
import { type ForeignEnd, foreignEnd } from '../foreign'
import type { Remedy } from '../finding'

/** The other circuit an isolated output plays a contact for. */
export const playedContact: Rule = {
  id: 'played-contact',
  severity: 'fix',
  when: 'A coupler’s output plays a contact for another device, and its poles, its dark current or its rest voltage do not suit that, or the device is fed twice.',
  source:
    'Coupler data sheet: collector to plus, emitter to minus; dark current when warm times the device’s pull, and what is left across it when closed, against a third of its open voltage.',
  check: (context) =>
    context.parts.flatMap((p) => {
      const met = meeting(context, p)
      return met ? troubles(met).map((t) => reported(context.design, p.id, t)) : []
    }),
}

type InParts = CheckContext['parts'][number]
interface Trouble {
  key: string
  severity: 'stop' | 'fix'
  sentence: string
  remedies?: Remedy[]
}

const reported = (design: Design, id: string, { key, ...trouble }: Trouble): Reported =>
  report(`${id}:${key}`, { partId: id, signalId: signalOfPart(design, id), ...trouble })

/** A coupler's two poles, the device they are joined to, and whether they are the wrong way round there. */
function meeting({ design, catalog }: CheckContext, { id, part, kind }: InParts) {
  const ends = kind.terminals.flatMap((t) =>
    t.role === 'contact' && t.does?.kind === 'switches' ? [{ id: t.id, does: t.does }] : [],
  )
  const plus = ends.find((e) => e.does.pole === 'plus')
  const minus = ends.find((e) => e.does.pole === 'minus')
  if (!plus || !minus) return null
  const [at, back] = [part.feeds[plus.id], part.feeds[minus.id]]
  const [to, ret] = [foreignEnd(design, catalog, at), foreignEnd(design, catalog, back)]
  if (!to || !ret) return null
  const place = (end: ForeignEnd) =>
    catalog.parts[design.parts[end.partId]?.kind ?? '']?.terminals.findIndex((t) => t.id === end.terminal) ?? 0
  const turned: Remedy = {
    label: 'Turn it round',
    edits: [
      { kind: 'feed', partId: id, terminal: plus.id, rail: back ?? '' },
      { kind: 'feed', partId: id, terminal: minus.id, rail: at ?? '' },
    ],
  }
  return { label: part.label, does: plus.does, to, turned: place(to) > place(ret) ? turned : null }
}

function troubles({ label, does, to, turned }: NonNullable<ReturnType<typeof meeting>>): Trouble[] {
  const pullOhm = to.openV / Math.max(to.closedA, 1e-12)
  const closedV = to.openV / 3
  const darkV = does.darkA * pullOhm
  const milli = (a: number) => (a * 1000).toFixed(1)
  const out: Trouble[] = []
  if (to.ac)
    out.push({
      key: 'ac',
      severity: 'stop',
      sentence: `${label} plays a contact on alternating current: a transistor conducts one way only. A relay does it.`,
    })
  if (to.openV > does.maxV)
    out.push({
      key: 'volts',
      severity: 'stop',
      sentence: `${to.label} has ${to.openV} V open; ${label} stands ${does.maxV} V.`,
    })
  if (to.closedA > does.maxA)
    out.push({
      key: 'amps',
      severity: 'fix',
      sentence: `${to.label} sends ${milli(to.closedA)} mA through a closed contact; ${label} surely carries ${milli(does.maxA)} mA.`,
    })
  if (turned)
    out.push({
      key: 'poles',
      severity: 'stop',
      sentence: `${label} is the wrong way round at ${to.label}: its collector belongs to the plus of the two, the terminal with the open voltage.`,
      remedies: [turned],
    })
  if (darkV > closedV + 1e-9)
    out.push({
      key: 'dark',
      severity: 'fix',
      sentence: `${label} lets ${(does.darkA * 1e6).toFixed(1)} µA through when dark and warm: over ${to.label}’s ${(pullOhm / 1e6).toFixed(1)} MΩ that is ${darkV.toFixed(2)} V of ${to.openV} V, and it may look closed. A relay or a reed contact does it.`,
    })
  if (does.lowMaxV > closedV)
    out.push({
      key: 'rest',
      severity: 'fix',
      sentence: `${label} leaves ${does.lowMaxV} V when closed; ${to.label} takes less than ${closedV.toFixed(2)} V for closed.`,
    })
  return out
}
