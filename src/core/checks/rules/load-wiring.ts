import { statedLoad, switchesOf } from '../../power/switching'
import { type CheckContext, report, type Rule, signalOfPart } from '../context'
import type { Remedy } from '../finding'
import type { EditBody } from '../../design/edit'
import { railSuits } from '../../power/rails'

const SOURCE = 'The circuit a contact closes belongs to the node as well: its supply, its fuse, the contact and the way back.'

/** What a contact or a stage switches is said, and is not in the list of wires. */
export const loadNotWired: Rule = {
  id: 'load-not-wired',
  severity: 'note',
  when: 'A contact or a stage is said to switch something, and neither load nor supply nor fuse are in the list of wires.',
  source: SOURCE,
  check: (context) => {
    const { design, catalog } = context
    const switches = switchesOf(design, catalog)
    return context.parts.flatMap(({ id, part, kind }) => {
      const mine = switches.filter((s) => s.partId === id)
      const stated = statedLoad(kind, part)
      if (!stated || mine.length === 0 || mine.some((s) => s.loads.length > 0 || s.at !== null || s.commonAt !== null)) return []
      return [report('load-not-wired', id, {
        severity: 'note', bench: 'wires', partId: id, signalId: signalOfPart(design, id), source: SOURCE,
        sentence: `${part.label}: what it switches is not in the list of wires yet: its supply, fuse, contact and way back.`,
        remedies: wireIt(context, id),
      })]
    })
  },
}

/** The load as a part, joined to the contact that rests open or to the stage, and fed from a supply it stands. */
function wireIt(context: CheckContext, id: string): Remedy[] {
  const { design, catalog, rails } = context
  const part = design.parts[id]
  const kind = catalog.parts[part?.kind ?? '']
  const chosen = kind?.settings.flatMap((s) => ('choices' in s ? s.means?.[String(part?.settings[s.id] ?? s.default)]?.load?.part ?? [] : []))[0]
  const load = chosen === undefined ? undefined : catalog.parts[chosen]
  const supply = load?.terminals.find((t) => t.role === 'supply')
  const back = load?.terminals.find((t) => t.role === 'ground')
  if (!part || !kind || !load || supply?.role !== 'supply' || !back) return []
  const loadId = `ld${id}`.slice(0, 24)
  const mains = load.load?.mains ?? false
  const have = rails.find((r) => r.partId !== null && r.through === null && (mains ? r.ac && !r.isolated : !r.ac && r.isolated) && ['well', 'nearly', 'low'].includes(railSuits(r, supply)))
  const source = mains ? { kind: 'mains-230', rail: 'l' } : { kind: 'supply-12v', rail: 'out' }
  const sourceId = `sp${id}`.slice(0, 24)
  if (loadId in design.parts || (!have && (sourceId in design.parts || !catalog.parts[source.kind]))) return []
  const from = have?.id ?? `${sourceId}.${source.rail}`
  const edits: EditBody[] = [
    ...(have ? [] : [{ kind: 'add-part' as const, partId: sourceId, part: source.kind, label: mains ? 'Mains' : '12 V supply', signals: [] }]),
    { kind: 'add-part', partId: loadId, part: load.id, label: load.name.split(',')[0] ?? load.name, signals: [] },
  ]
  const closes = kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'closes')
  const common = kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'common')
  const sinks = kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'sinks')
  if (closes && common) edits.push({ kind: 'feed', partId: id, terminal: common.id, rail: from }, { kind: 'feed', partId: loadId, terminal: supply.id, rail: `${id}.${closes.id}` })
  else if (sinks && !mains) edits.push({ kind: 'feed', partId: loadId, terminal: supply.id, rail: from }, { kind: 'feed', partId: loadId, terminal: back.id, rail: `${id}.${sinks.id}` })
  else return []
  return [{ label: `Wire ${load.name.toLowerCase()} from ${have?.name ?? (mains ? 'the mains' : 'a 12 V supply')}`, edits }]
}

/** A load that hangs on nothing: no contact and no stage works it. */
export const loadLoose: Rule = {
  id: 'load-loose',
  severity: 'fix',
  when: 'A load is in the design and joined to nothing.',
  source: SOURCE,
  check: (context) => {
    const { design, catalog } = context
    const free = switchesOf(design, catalog).filter((s) => s.way !== 'opens' && s.loads.length === 0 && s.at === null)
    return context.parts.flatMap(({ id, part, kind }) => {
      const supply = kind.terminals.find((t) => t.role === 'supply')
      if (!kind.load || (supply ? part.feeds[supply.id] !== undefined : Object.keys(part.feeds).length > 0)) return []
      const back = kind.terminals.find((t) => t.role === 'ground')
      const remedies = free.flatMap((s): Remedy[] => {
        const rail = context.rails.find((r) => r.partId !== null && r.through === null && supply?.role === 'supply' && (!r.ac || supply.ac === true) && r.isolated !== (kind.load?.mains ?? false) && railSuits(r, supply) === 'well')
        const common = s.kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'common' && t.does.of === s.line)
        if (!supply || !rail || rail.partId === s.partId) return []
        if (s.way === 'closes' && common && (s.commonAt === null || s.commonAt === rail.id)) {
          return [{ label: `Behind ${s.part.label} ${s.terminal.label}, from ${rail.name}`, edits: [...(s.commonAt === null ? [{ kind: 'feed' as const, partId: s.partId, terminal: common.id, rail: rail.id }] : []), { kind: 'feed', partId: id, terminal: supply.id, rail: `${s.partId}.${s.terminal.id}` }] }]
        }
        return s.way === 'sinks' && back && !rail.ac && rail.isolated ? [{ label: `On ${s.part.label} ${s.terminal.label}, from ${rail.name}`, edits: [{ kind: 'feed', partId: id, terminal: supply.id, rail: rail.id }, { kind: 'feed', partId: id, terminal: back.id, rail: `${s.partId}.${s.terminal.id}` }] }] : []
      })
      return [report('load-loose', id, {
        severity: 'fix', bench: 'parts', partId: id, source: SOURCE,
        sentence: `${part.label} is joined to nothing: choose the contact or the stage that works it, and the supply behind that.`, remedies: remedies.slice(0, 3),
      })]
    })
  },
}

/** The other circuit an isolated output plays a contact for. */
export const playedContact: Rule = {
  id: 'played-contact',
  severity: 'fix',
  when: 'A coupler’s output plays a contact for another device, and its poles, its dark current or its rest voltage do not suit that, or the device is fed twice.',
  source: 'Coupler data sheet: collector to plus, emitter to minus; dark current when warm times the device’s pull, and what is left across it when closed, against a third of its open voltage.',
  check: (context) => context.parts.flatMap(({ id, part, kind }) => {
    const { design, catalog } = context
    const ends = kind.terminals.flatMap((t) => (t.role === 'contact' && t.does?.kind === 'switches' ? [{ t, does: t.does }] : []))
    const plus = ends.find((e) => e.does.pole === 'plus')
    const minus = ends.find((e) => e.does.pole === 'minus')
    if (!plus || !minus) return []
    const [at, back] = [part.feeds[plus.t.id], part.feeds[minus.t.id]]
    const foreignAt = (end: string | undefined) => {
      const [p = '', x = ''] = end?.split('.') ?? []
      const t = catalog.parts[design.parts[p]?.kind ?? '']?.terminals.find((y) => y.id === x)
      return t?.role === 'contact' && t.does?.kind === 'foreign' ? { ...t.does, terminal: x, partId: p, label: design.parts[p]?.label ?? '' } : null
    }
    const [to, ret] = [foreignAt(at), foreignAt(back)]
    const say = (key: string, severity: 'stop' | 'fix', sentence: string, remedies: Remedy[] = []) => report('played-contact', `${id}:${key}`, { severity, bench: 'wires', partId: id, signalId: signalOfPart(design, id), sentence, remedies, source: playedContact.source })
    if (!to || !ret) return []
    const swapped = catalog.parts[design.parts[to.partId]?.kind ?? '']?.terminals.findIndex((t) => t.id === to.terminal) ?? 0
    const first = catalog.parts[design.parts[ret.partId]?.kind ?? '']?.terminals.findIndex((t) => t.id === ret.terminal) ?? 0
    const pullOhm = to.openV / Math.max(to.closedA, 1e-12)
    const found = []
    if (to.ac) found.push(say('ac', 'stop', `${part.label} plays a contact on alternating current: a transistor conducts one way only. A relay does it.`))
    if (to.openV > plus.does.maxV) found.push(say('volts', 'stop', `${to.label} has ${to.openV} V open; ${part.label} stands ${plus.does.maxV} V.`))
    if (to.closedA > plus.does.maxA) found.push(say('amps', 'fix', `${to.label} sends ${(to.closedA * 1000).toFixed(1)} mA through a closed contact; ${part.label} surely carries ${(plus.does.maxA * 1000).toFixed(1)} mA.`))
    if (swapped > first) found.push(say('poles', 'stop', `${part.label} is the wrong way round at ${to.label}: its collector belongs to the plus of the two, the terminal with the open voltage.`, [{ label: 'Turn it round', edits: [{ kind: 'feed', partId: id, terminal: plus.t.id, rail: back ?? '' }, { kind: 'feed', partId: id, terminal: minus.t.id, rail: at ?? '' }] }]))
    const darkV = plus.does.darkA * pullOhm
    if (darkV > to.openV / 3 + 1e-9) found.push(say('dark', 'fix', `${part.label} lets ${(plus.does.darkA * 1e6).toFixed(1)} µA through when dark and warm: over ${to.label}’s ${(pullOhm / 1e6).toFixed(1)} MΩ that is ${darkV.toFixed(2)} V of ${to.openV} V, and it may look closed. A relay or a reed contact does it.`))
    if (plus.does.lowMaxV > to.openV / 3) found.push(say('rest', 'fix', `${part.label} leaves ${plus.does.lowMaxV} V when closed; ${to.label} takes less than ${(to.openV / 3).toFixed(2)} V for closed.`))
    return found
  }),
}

/** What a contact does in the circuit of a device that was there before, and what is left when the node has no power. */
export const passThrough: Rule = {
  id: 'pass-through',
  severity: 'stop',
  when: 'A contact of the node lies in or across the wiring of a drive: what that does when the node has no power, and whether it can bridge something that protects.',
  source: 'A relay without power rests: its normally open contact is open, its normally closed one closed. What protects may only be opened by others, never bridged.',
  check: (context) => {
    const { design, catalog } = context
    const foreign = (end: string | null) => {
      const [p = '', x = ''] = end?.split('.') ?? []
      const t = catalog.parts[design.parts[p]?.kind ?? '']?.terminals.find((y) => y.id === x)
      return t?.role === 'contact' && t.does?.kind === 'foreign' ? { ...t.does, partId: p, label: design.parts[p]?.label ?? '', name: t.label } : null
    }
    return switchesOf(design, catalog).filter((s) => s.way === 'closes' || s.way === 'opens').flatMap((s) => {
      const [a, b] = [foreign(s.at), foreign(s.commonAt)]
      const it = a ?? b
      if (!it || s.at === null || s.commonAt === null) return []
      const key = `${s.partId}.${s.terminal.id}`
      const say = (severity: 'stop' | 'fix' | 'note', sentence: string, remedies: Remedy[] = []) => [report('pass-through', key, { severity, bench: 'wires', partId: s.partId, signalId: signalOfPart(design, s.partId), sentence, remedies, source: passThrough.source })]
      const across = a !== null && b !== null && a.partId === b.partId && a.pair === b.pair
      const off: Remedy[] = s.at === null ? [] : [{ label: `Take ${s.terminal.label} off`, edits: [{ kind: 'feed', partId: s.partId, terminal: s.terminal.id, rail: null }] }]
      if (across && (it.role === 'safety' || it.role === 'stop')) return say('stop', `${s.part.label} lies across ${it.label} ${it.name}: it can bridge what protects people. Never; the node may only listen to a contact of its own.`, off)
      if (across && s.way === 'opens') return say('stop', `${s.part.label} ${s.terminal.label} lies across ${it.label} ${it.name}: without power of the node it presses that button for ever.`, off)
      if (!across && (it.role === 'safety' || it.role === 'stop')) {
        return say(s.way === 'closes' ? 'fix' : 'note', s.way === 'closes'
          ? `${it.label} ${it.name} goes through ${s.part.label} ${s.terminal.label}: without power of the node it is open, and the drive stands still.`
          : `${it.label} ${it.name} goes through ${s.part.label} ${s.terminal.label}: without power of the node it is as it was before; the node can only open it.`)
      }
      const pulse = Object.values(design.signals).find((x) => x.partId === s.partId && kindChannel(s.kind, x.channel)?.access === 'output')
      if (across && it.role === 'start' && pulse && pulse.conditioning.pulseS === 0) {
        const id = Object.keys(design.signals).find((x) => design.signals[x] === pulse) ?? ''
        return say('fix', `${s.part.label} plays a finger on ${it.label} ${it.name} and stays on: let “on” be a pulse of a second.`, [{ label: 'A pulse of 1 s', edits: [{ kind: 'condition', signalId: id, set: { pulseS: 1 } }] }])
      }
      return across ? say('note', `${s.part.label} lies across ${it.label} ${it.name} and rests open: without power of the node the button on the wall works as before.`) : []
    })
  },
}

const kindChannel = (kind: CheckContext['parts'][number]['kind'], channel: string) => kind.channels.find((c) => c.id === channel)

