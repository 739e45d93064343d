import { pinByLabel } from '../catalog/board'
import { addressOf, addressWords } from '../catalog/address'
import { type Catalog, isBuiltIn, withItems } from '../catalog/catalog'
import { type Channel, linesOf, type PartKind, terminalOf } from '../catalog/part'
import { nextHue, nextTag } from '../palette/palette'
import { judgePin } from '../pins/judgePin'
import { allLines, BUS_NAME, busOf, hostOf, lineName, planLines } from '../pins/lines'
import { afterRounds, EDIT_ROUNDS } from '../pins/afterRounds'
import { brokenTogether, planPins } from '../pins/planPins'
import { type FeedRail, railsOf, railSuits, type Suits } from '../power/rails'
import { unitsFor } from '../units/convert'
import { type Change, changesBetween, invertChanges, patch } from './changes'
import { type Design, designSchema, inOrder, placeOf, RESERVED_SLUGS, type Signal } from './design'
import type { EditBody } from './edit'
import { wiringOf } from '../wiring/netlist'
import { freeNames } from '../wiring/componentNames'
import { settle } from './settle'
import { condition, setGuard, setRule } from './behave'
import { joinRefusal } from './joints'
import { type BrokenReference, brokenReferences } from './references'
import { isReservedNode } from './reserved'
import { slugFrom } from './slug'

export type Applied = { ok: true; design: Design; changes: Change[] } | { ok: false; reason: string; accepts: string }

type Step = Design | { refused: string; accepts: string }
const refuse = (refused: string, accepts: string): Step => ({ refused, accepts })

/**
 * The design after one edit, with all it brings along, or why not and what would be accepted. The given design is not
 * changed.
 */
export function applyEdit(design: Design, edit: EditBody, catalog: Catalog): Applied {
  const step = perform(design, edit, catalog)
  if ('refused' in step) return { ok: false, reason: step.refused, accepts: step.accepts }
  const next = edit.kind === 'revert' ? step : settle(step, catalog)
  const checked = designSchema.safeParse(next)
  if (!checked.success) {
    const issue = checked.error.issues[0]
    return {
      ok: false,
      reason: `${issue?.path.join(' › ') ?? 'the design'}: ${issue?.message ?? 'not valid'}`,
      accepts: 'a value within the stated range',
    }
  }
  const wrong = newlyWrong(design, next, catalog)
  if (wrong) return { ok: false, reason: wrong.refused, accepts: wrong.accepts }
  return { ok: true, design: next, changes: changesBetween(design, next) }
}

/**
 * What an edit may not do, whichever it is: become another document, or name what is not there and was not named
 * before.
 */
function newlyWrong(before: Design, after: Design, catalog: Catalog): { refused: string; accepts: string } | null {
  if (after.id !== before.id || after.format !== before.format)
    return { refused: 'the identity of a design is not changed', accepts: 'anything else of it' }
  if (after.slug !== before.slug && isReservedNode(after.slug))
    return { refused: `“${after.slug}” has a meaning of its own in the topics`, accepts: 'another short name' }
  const wrong = brokenReferences(after, withItems(catalog, after.items))
  if (wrong.length === 0) return null
  const key = (w: BrokenReference) => `${w.path.join(' ')} ${w.found}`
  const already = brokenReferences(before, withItems(catalog, before.items))
  const stood = new Set(already.map(key))
  // What rests on a name that was missing was not looked at before: it is not new because the name has come back.
  const named = already.some((w) => w.word !== undefined)
  const fresh = wrong.find((w) => !stood.has(key(w)) && (!named || w.word !== undefined))
  return fresh ? { refused: `${fresh.path.join(' › ')}: ${fresh.found}`, accepts: fresh.expected } : null
}

/** The edit that takes back what `edit` does to `design`. Refuses later if someone has changed the same place since. */
export function invertEdit(design: Design, edit: EditBody, catalog: Catalog): EditBody | null {
  const applied = applyEdit(design, edit, catalog)
  return applied.ok
    ? { kind: 'revert', of: edit.kind === 'revert' ? edit.of : edit.kind, changes: invertChanges(applied.changes) }
    : null
}

function perform(design: Design, edit: EditBody, catalog: Catalog): Step {
  switch (edit.kind) {
    case 'add-part':
      return addPart(design, edit, catalog)
    case 'remove-part':
      return withPart(design, edit.partId, () => removePart(design, edit.partId))
    case 'rename-part':
      return withPart(design, edit.partId, (part) => ({
        ...design,
        parts: { ...design.parts, [edit.partId]: { ...part, label: edit.label } },
      }))
    case 'set-part':
      return setPart(design, edit, catalog)
    case 'feed':
      return feed(design, edit, catalog)
    case 'add-signal':
      return withPart(design, edit.partId, () => addSignal(design, edit.partId, edit.signal, catalog))
    case 'remove-signal':
      return withSignal(design, edit.signalId, () => ({ ...design, signals: without(design.signals, edit.signalId) }))
    case 'rename-signal':
      return withSignal(design, edit.signalId, (s) => renameSignal(design, edit.signalId, s, edit))
    case 'condition':
      return withSignal(design, edit.signalId, (s) => condition(design, edit.signalId, s, edit.set, catalog))
    case 'publish':
      return withSignal(design, edit.signalId, (s) => publish(design, edit.signalId, s, edit.set, catalog))
    case 'calibrate':
      return withSignal(design, edit.signalId, (s) => calibrate(design, edit.signalId, s, edit.calibration, catalog))
    case 'choose-board':
      return chooseBoard(design, edit.board, catalog)
    case 'identify':
      return { ...design, name: edit.name, slug: edit.slug, area: edit.area }
    case 'copy-part':
      return copyPart(design, edit, catalog)
    case 'gather':
      return gather(design, edit, catalog)
    case 'set-bus':
      return setBus(design, edit, catalog)
    case 'sleep':
      return {
        ...design,
        sleep:
          edit.everyS === null ? null : { everyS: edit.everyS, listenS: edit.listenS ?? design.sleep?.listenS ?? 2 },
      }
    case 'set-rule':
      return setRule(design, edit, catalog)
    case 'set-guard':
      return setGuard(design, edit, catalog)
    case 'connect':
      return edit.address === 'fixed' && edit.fixed === null
        ? refuse('a fixed address needs its numbers', 'address, mask, gateway and name server')
        : {
            ...design,
            network: {
              ref: edit.ref,
              address: edit.address,
              keepAliveS: edit.keepAliveS,
              fixed: edit.fixed,
              secure: edit.secure ?? design.network.secure,
            },
          }
    case 'set-cost':
      return setCost(design, edit, catalog)
    case 'lock':
      return lock(design, edit, catalog)
    case 'unlock':
      return Object.hasOwn(design.locks, edit.line)
        ? { ...design, locks: without(design.locks, edit.line) }
        : refuse('this line is not locked', 'a locked line')
    case 'keep-free':
      return keepFree(design, edit, catalog)
    case 'accept-plan':
      return acceptPlan(design, edit.pins, catalog)
    case 'add-component':
      return addComponent(design, edit, catalog)
    case 'remove-component':
      return edit.componentId in design.added
        ? { ...design, added: without(design.added, edit.componentId) }
        : refuse('this component is not in the design', 'one that is')
    case 'mark-wire': {
      const wire = Object.hasOwn(design.wires, edit.wire) ? design.wires[edit.wire] : undefined
      return wire
        ? { ...design, wires: { ...design.wires, [edit.wire]: { ...wire, made: edit.made } } }
        : refuse('this wire is not in the design', 'a wire of the schedule')
    }
    case 'set-wire': {
      const wire = Object.hasOwn(design.wires, edit.wire) ? design.wires[edit.wire] : undefined
      return wire
        ? {
            ...design,
            wires: {
              ...design.wires,
              [edit.wire]: { ...wire, ...edit.set, ...(edit.set.insulation === undefined ? {} : { chosen: true }) },
            },
          }
        : refuse('this wire is not in the design', 'a wire of the schedule')
    }
    case 'place-part':
      return withPart(design, edit.partId, (part) => {
        const { rom } = edit.set
        const wired = catalog.parts[part.kind]?.terminals.some((t) => t.role === 'line' && t.bus?.kind === 'one-wire')
        if (rom && !wired) return refuse(`${part.label} is on no one-wire line`, 'a part that is')
        const other = Object.entries(design.parts).find(([id, p]) => rom && id !== edit.partId && p.rom === rom)
        if (other) return refuse(`${other[1].label} has this address already`, 'an address of its own')
        return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, ...edit.set } } }
      })
    case 'record-found':
      return withPart(design, edit.partId, (part) => ({
        ...design,
        parts: { ...design.parts, [edit.partId]: { ...part, found: edit.found } },
      }))
    case 'feed-board':
      return feedBoard(design, edit.rail, catalog)
    case 'made-otherwise':
      return madeOtherwise(design, edit, catalog)
    case 'revert': {
      const result = patch(design, edit.changes)
      return result.ok
        ? result.value
        : refuse(`${placeName(design, result.path)} has been changed since`, 'undoing the later change first')
    }
  }
}

function withPart(design: Design, partId: string, then: (part: Design['parts'][string]) => Step): Step {
  const part = design.parts[partId]
  return part ? then(part) : refuse('this part is no longer in the design', 'a part that is')
}

function withSignal(design: Design, signalId: string, then: (signal: Signal) => Step): Step {
  const signal = design.signals[signalId]
  return signal ? then(signal) : refuse('this signal is no longer in the design', 'a signal that is')
}

function without<T>(items: Record<string, T>, id: string): Record<string, T> {
  const { [id]: _, ...rest } = items
  return rest
}

const putSignal = (design: Design, id: string, signal: Signal): Design => ({
  ...design,
  signals: { ...design.signals, [id]: signal },
})
const nextOrder = (items: Record<string, { order: number }>): number =>
  Math.max(-1, ...Object.values(items).map((i) => i.order)) + 1

function addPart(design: Design, edit: Extract<EditBody, { kind: 'add-part' }>, catalog: Catalog): Step {
  const kind = catalog.parts[edit.part]
  const board = catalog.boards[design.board.id]
  if (!kind || !board) return refuse(`“${edit.part}” is not on the shelf`, Object.keys(catalog.parts).join(', '))
  if (edit.partId in design.parts) return refuse('this part is in the design already', 'a new id')
  if (BUS_NAME.test(edit.partId)) return refuse(`“${edit.partId}” is the name of a bus`, 'another id')
  const feeds = Object.fromEntries(
    kind.terminals.flatMap((t) => {
      const rail = t.role === 'supply' && !kind.load ? lowestRail(railsOf(design, board, catalog), t) : undefined
      return rail === undefined ? [] : [[t.id, rail]]
    }),
  )
  const settings = {
    ...Object.fromEntries(kind.settings.map((s) => [s.id, s.default])),
    ...freeAddress(design, kind, catalog),
  }
  let next: Step = {
    ...design,
    parts: {
      ...design.parts,
      [edit.partId]: {
        order: nextOrder(design.parts),
        kind: kind.id,
        label: edit.label,
        settings,
        feeds,
        bus: null,
        cableM: 0.3,
        rom: null,
        outdoor: false,
        found: null,
      },
    },
    items: carried(design, catalog, { parts: [kind.id] }),
  }
  for (const signal of edit.signals) {
    next = addSignal(next, edit.partId, signal, catalog)
    if ('refused' in next) return next
  }
  return next
}

const PREFERRED: readonly Suits[] = ['well', 'nearly', 'low']

/**
 * The lowest rail inside the terminal's range: levels then agree with the chip where they can. Where none is, one that
 * only falls short at its lower end, which the checks then say. Never one behind a contact, of unproven isolation, or
 * alternating.
 */
function lowestRail(rails: readonly FeedRail[], terminal: { minV: number; maxV: number }): string | undefined {
  const suitable = rails.filter((r) => !r.ac && r.through === null && r.isolated && r.max > 0)
  const ranked = [...suitable].sort((a, b) => a.max - b.max)
  for (const suits of PREFERRED) {
    const found = ranked.find((r) => railSuits(r, terminal) === suits)
    if (found) return found.id
  }
  return undefined
}

/** The first address nobody on its bus has, for a part whose address can be chosen. */
function freeAddress(design: Design, kind: PartKind, catalog: Catalog): Record<string, string> {
  if (!kind.i2c || kind.i2c.addresses.length < 2) return {}
  const taken = Object.values(design.parts).flatMap((p) => {
    const other = catalog.parts[p.kind]
    return other?.i2c && busOf(p, 'i2c') === 'a' ? [addressOf(p, other)] : []
  })
  const free = kind.i2c.addresses.find((a) => !taken.includes(a)) ?? kind.i2c.addresses[0]
  return { address: addressWords(free ?? 0) }
}

/** Copies of the catalogue items a design uses and the product does not ship. */
function carried(design: Design, catalog: Catalog, more: { boards?: string[]; parts?: string[] }): Design['items'] {
  const parts = [...new Set([...design.items.parts.map((p) => p.id), ...(more.parts ?? [])])].filter(
    (id) => !isBuiltIn('parts', id),
  )
  const boards = [...new Set([...design.items.boards.map((b) => b.id), ...(more.boards ?? [])])].filter(
    (id) => !isBuiltIn('boards', id),
  )
  if (parts.length === 0 && boards.length === 0) return design.items
  return {
    boards: boards.flatMap((id) => catalog.boards[id] ?? []),
    parts: parts.flatMap((id) => catalog.parts[id] ?? []),
  }
}

function copyPart(design: Design, edit: Extract<EditBody, { kind: 'copy-part' }>, catalog: Catalog): Step {
  const part = design.parts[edit.partId]
  if (!part) return refuse('this part is no longer in the design', 'a part that is')
  let next = addPart(
    design,
    { kind: 'add-part', partId: edit.newId, part: part.kind, label: edit.label, signals: [] },
    catalog,
  )
  if ('refused' in next) return next
  const fresh = next.parts[edit.newId]
  if (!fresh) return next
  // Its address stays the free one: two parts of one address on a bus answer together.
  const { address: _, ...settings } = part.settings
  next = {
    ...next,
    parts: {
      ...next.parts,
      [edit.newId]: {
        ...fresh,
        settings: { ...fresh.settings, ...settings },
        feeds: part.feeds,
        bus: part.bus,
        cableM: part.cableM,
        outdoor: part.outdoor,
      },
    },
  }
  for (const wish of edit.signals) {
    const from = Object.values(design.signals).find((s) => s.partId === edit.partId && s.channel === wish.channel)
    next = addSignal(next, edit.newId, wish, catalog)
    if ('refused' in next) return next
    const made = next.signals[wish.id]
    if (from && made)
      next = putSignal(next, wish.id, { ...made, conditioning: from.conditioning, publish: from.publish })
  }
  return next
}

/** Several single contacts become keys of one part; their signals keep names, tags and topics. */
function gather(design: Design, edit: Extract<EditBody, { kind: 'gather' }>, catalog: Catalog): Step {
  const kind = catalog.parts[edit.part]
  const keys = kind?.channels.filter((c) => c.driver === 'keys') ?? []
  if (!kind || keys.length === 0)
    return refuse(
      `“${edit.part}” gathers no contacts`,
      Object.values(catalog.parts)
        .flatMap((k) => (k.channels[0]?.driver === 'keys' ? [k.id] : []))
        .join(', '),
    )
  if (edit.partIds.length > keys.length)
    return refuse(`${kind.name} takes ${keys.length} contacts`, `${keys.length} or fewer`)
  const from = edit.partIds.map((id) => design.parts[id])
  const wrong = from.find((p) => catalog.parts[p?.kind ?? '']?.channels.some((c) => c.driver !== 'button') ?? true)
  if (from.includes(undefined) || wrong)
    return refuse(`${wrong?.label ?? 'a part'} is no push button`, 'push buttons that are in the design')
  const signals = inOrder(design.signals).filter(({ value }) => edit.partIds.includes(value.partId))
  const emptied = edit.partIds.reduce((d, id) => removePart(d, id), design)
  const next = addPart(
    emptied,
    { kind: 'add-part', partId: edit.partId, part: kind.id, label: edit.label, signals: [] },
    catalog,
  )
  if ('refused' in next) return next
  return signals.reduce(
    (d, { id, value }) =>
      putSignal(d, id, {
        ...value,
        partId: edit.partId,
        channel: keys[edit.partIds.indexOf(value.partId)]?.id ?? 'k1',
      }),
    next,
  )
}

function setBus(design: Design, edit: Extract<EditBody, { kind: 'set-bus' }>, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const kind = catalog.parts[part.kind]
    const bus = kind?.terminals.flatMap((t) => (t.role === 'line' && t.bus ? [t.bus.kind] : []))[0]
    if (!bus && edit.bus !== null) {
      const refused = cannotHost(design, catalog, edit.partId, edit.bus)
      if (refused) return refused
      return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, bus: edit.bus } } }
    }
    if (bus === 'uart' && edit.bus !== null && edit.bus !== 'own')
      return refuse(`${part.label} talks to one alone: a serial line is not shared`, 'own')
    if (edit.bus?.includes(':')) {
      const [mux = '', branch = ''] = edit.bus.split(':')
      const of = catalog.parts[design.parts[mux]?.kind ?? '']
      if (!of?.terminals.some((t) => t.id === `sd${branch}`))
        return refuse(`there is no branch “${edit.bus}”`, 'PART:N of a multiplexer in the design')
      if (mux === edit.partId || bus !== 'i2c')
        return refuse(`${part.label} cannot sit behind it`, 'a part on a two-wire bus')
    }
    return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, bus: edit.bus } } }
  })
}

/** Why an analog part may not be put at this input of a converter, or null. */
function cannotHost(design: Design, catalog: Catalog, partId: string, at: string): Step | null {
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  const line = kind && linesOf(kind)
  const [hostId = '', n = ''] = at.split(':')
  const host = catalog.parts[design.parts[hostId]?.kind ?? '']
  if (!part || !kind || line?.length !== 1 || line[0]?.needs !== 'analog')
    return refuse(`${part?.label ?? 'this part'} is on no bus`, 'a part that is')
  const moving = kind.channels.some((c) => c.access !== 'reading' || c.analog === 'swing' || c.analog === 'rms')
  if (moving) return refuse(`${part.label} moves faster than a converter on a bus measures`, 'an input of the board')
  if (!host?.converter || hostOf(design, catalog, { ...part, bus: at }, line[0]) === null)
    return refuse(`there is no converter input “${at}”`, 'PART:N of a converter in the design')
  const other = Object.entries(design.parts).find(([id, p]) => id !== partId && p.bus === at)
  return other ? refuse(`input ${n} is taken by ${other[1].label}`, 'a free input') : null
}

function setCost(design: Design, edit: Extract<EditBody, { kind: 'set-cost' }>, catalog: Catalog): Step {
  if (!catalog.parts[edit.item] && !catalog.boards[edit.item])
    return refuse(`“${edit.item}” is not on the shelf`, 'a board or part of the catalogue')
  return {
    ...design,
    costs: edit.cost === null ? without(design.costs, edit.item) : { ...design.costs, [edit.item]: edit.cost },
  }
}

function removePart(design: Design, partId: string): Design {
  const own = ([line]: [string, unknown]) => !line.startsWith(`${partId}.`)
  return {
    ...design,
    parts: without(design.parts, partId),
    signals: Object.fromEntries(Object.entries(design.signals).filter(([, s]) => s.partId !== partId)),
    locks: Object.fromEntries(Object.entries(design.locks).filter(own)),
    plan: { ...design.plan, pins: Object.fromEntries(Object.entries(design.plan.pins).filter(own)) },
  }
}

function setPart(design: Design, edit: Extract<EditBody, { kind: 'set-part' }>, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const setting = catalog.parts[part.kind]?.settings.find((s) => s.id === edit.setting)
    if (!setting)
      return refuse(
        `${part.label} has no setting “${edit.setting}”`,
        catalog.parts[part.kind]?.settings.map((s) => s.id).join(', ') || 'none: it has no settings',
      )
    let { value } = edit
    if ('choices' in setting) {
      // By its id, or by its label as people write it.
      const choice = setting.choices.find((c) => c.id === value || c.label === value)
      if (!choice) {
        const accepts = setting.choices.map((c) => c.label).join(', ')
        return refuse(`“${edit.value}” is not a choice for ${setting.label}`, accepts)
      }
      value = choice.id
    } else if (typeof edit.value !== 'number' || edit.value < setting.min || edit.value > setting.max) {
      return refuse(`${edit.value} is outside ${setting.label}`, `${setting.min} to ${setting.max} ${setting.unit}`)
    }
    return {
      ...design,
      parts: {
        ...design.parts,
        [edit.partId]: { ...part, settings: { ...part.settings, [edit.setting]: value } },
      },
    }
  })
}

function feed(design: Design, edit: Extract<EditBody, { kind: 'feed' }>, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const kind = catalog.parts[part.kind]
    const terminal = kind && terminalOf(kind, edit.terminal)
    const board = catalog.boards[design.board.id]
    if (!kind || !terminal || !board)
      return refuse(
        `${part.label} has no terminal “${edit.terminal}”`,
        kind?.terminals.map((t) => t.id).join(', ') ?? '',
      )
    const refused = edit.rail === null ? null : joinRefusal(design, board, catalog, edit.partId, terminal, edit.rail)
    if (refused) return refuse(refused.reason, refused.accepts)
    const feeds =
      edit.rail === null ? without(part.feeds, edit.terminal) : { ...part.feeds, [edit.terminal]: edit.rail }
    return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, feeds } } }
  })
}

type NewSignal = Extract<EditBody, { kind: 'add-signal' }>['signal']

function addSignal(design: Design, partId: string, wish: NewSignal, catalog: Catalog): Step {
  const part = design.parts[partId]
  const kind = part && catalog.parts[part.kind]
  const channel = kind?.channels.find((c) => c.id === wish.channel)
  if (!kind || !channel)
    return refuse(
      `${part?.label ?? 'this part'} has no channel “${wish.channel}”`,
      kind?.channels.map((c) => c.id).join(', ') ?? '',
    )
  if (wish.id in design.signals) return refuse('this signal is in the design already', 'a new id')
  const others = Object.values(design.signals)
  if (others.some((s) => s.partId === partId && s.channel === wish.channel))
    return refuse(`${part.label} already makes “${channel.name}” known`, 'a channel that is not a signal yet')
  const tag = nextTag(
    channel.proposes.letter,
    others.map((s) => s.tag),
  )
  if (tag === null)
    return refuse(`all 99 tags of letter ${channel.proposes.letter} are in use`, 'removing a signal first')
  const taken = others.map((s) => s.slug)
  const slug = wish.slug ?? slugFrom(wish.name ?? channel.proposes.slug, [...taken, ...RESERVED_SLUGS])
  const signal: Signal = {
    order: nextOrder(design.signals),
    partId,
    channel: channel.id,
    name: wish.name ?? slug.replaceAll('-', ' '),
    slug,
    tag,
    hue: nextHue(others.map((s) => s.hue)),
    conditioning: proposedConditioning(channel),
    publish: {
      entity: true,
      intervalS: channel.proposes.intervalS,
      change: 'change' in channel.proposes ? channel.proposes.change : 0,
      decimals: channel.proposes.decimals,
      unit: channel.proposes.unit,
    },
    calibration: null,
  }
  const clash = slugClash(design, wish.id, slug)
  return clash ?? putSignal(design, wish.id, signal)
}

const MEDIANS = [1, 3, 5, 7, 9] as const

function proposedConditioning(channel: Channel): Signal['conditioning'] {
  const base: Signal['conditioning'] = {
    median: 1,
    averageS: 0,
    mountM: null,
    debounceMs: 0,
    longestOnS: 0,
    atStart: 'off',
    follows: null,
    pulseS: 0,
    holdS: null,
    patterns: ['single'],
    gapMs: 300,
    longMs: 600,
  }
  switch (channel.access) {
    case 'reading':
      return {
        ...base,
        median: MEDIANS.find((m) => m === channel.proposes.median) ?? 1,
        averageS: channel.proposes.averageS ?? 0,
        mountM: channel.proposes.geometry === 'level' ? 1 : null,
      }
    case 'output':
      return { ...base, longestOnS: channel.proposes.longestOnS }
    case 'state':
    case 'event':
      return { ...base, debounceMs: channel.proposes.debounceMs }
  }
}

function slugClash(design: Design, signalId: string, slug: string): Step | null {
  if ((RESERVED_SLUGS as readonly string[]).includes(slug))
    return refuse(
      `“${slug}” has a meaning of its own in the topics of a node`,
      `any name but ${RESERVED_SLUGS.join(', ')}`,
    )
  const other = Object.entries(design.signals).find(([id, s]) => id !== signalId && s.slug === slug)
  return other
    ? refuse(
        `“${slug}” is the topic of ${other[1].tag} already`,
        slugFrom(
          slug,
          Object.values(design.signals).map((s) => s.slug),
        ),
      )
    : null
}

/** A calibration that could make sense for this quantity: its offset within what its range and gain can ask for. */
function calibrate(
  design: Design,
  id: string,
  signal: Signal,
  calibration: Signal['calibration'],
  catalog: Catalog,
): Step {
  const channel = catalog.parts[design.parts[signal.partId]?.kind ?? '']?.channels.find((c) => c.id === signal.channel)
  if (calibration && channel?.access === 'reading') {
    const widest = Math.max(Math.abs(channel.range.min), Math.abs(channel.range.max))
    const most = widest * (1 + Math.abs(calibration.gain))
    if (Math.abs(calibration.offset) > most)
      return refuse(
        `an offset of ${calibration.offset} ${channel.unit} is more than ${signal.tag} can be off by`,
        `−${most} to ${most} ${channel.unit}`,
      )
  }
  return putSignal(design, id, { ...signal, calibration })
}

function renameSignal(design: Design, id: string, signal: Signal, to: { name: string; slug: string }): Step {
  return slugClash(design, id, to.slug) ?? putSignal(design, id, { ...signal, name: to.name, slug: to.slug })
}

function publish(design: Design, id: string, signal: Signal, set: Partial<Signal['publish']>, catalog: Catalog): Step {
  const kind = catalog.parts[design.parts[signal.partId]?.kind ?? '']
  const channel = kind?.channels.find((c) => c.id === signal.channel)
  const units = unitsFor(channel?.unit ?? '')
  if (set.unit !== undefined && !units.includes(set.unit))
    return refuse(`${signal.tag} cannot be shown in “${set.unit}”`, units.join(', '))
  return putSignal(design, id, { ...signal, publish: { ...signal.publish, ...set } })
}

/** Another board: parts, signals, names and conditioning stay; pins, and wires that are not made, are planned anew. */
function chooseBoard(design: Design, boardId: string, catalog: Catalog): Step {
  const board = catalog.boards[boardId]
  if (!board) return refuse(`“${boardId}” is not on the shelf`, Object.keys(catalog.boards).join(', '))
  const parts = Object.fromEntries(
    Object.entries(design.parts).map(([id, part]) => {
      const kind = catalog.parts[part.kind]
      const rails = railsOf(design, board, catalog)
      const feeds = Object.fromEntries(
        Object.entries(part.feeds).flatMap(([terminalId, rail]) => {
          const terminal = kind && terminalOf(kind, terminalId)
          const has = rails.some((r) => r.id === rail)
            ? rail
            : terminal?.role === 'supply'
              ? lowestRail(rails, terminal)
              : undefined
          return has === undefined ? [] : [[terminalId, has]]
        }),
      )
      return [id, { ...part, feeds }]
    }),
  )
  return {
    ...design,
    parts,
    board: { id: board.id, version: board.version },
    plan: { pins: {}, basis: '' },
    locks: {},
    keptFree: {},
    items: carried({ ...design, items: { ...design.items, boards: [] } }, catalog, { boards: [board.id] }),
  }
}

function lock(design: Design, edit: Extract<EditBody, { kind: 'lock' }>, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  const lines = planLines(design, catalog)
  const line = lines.find((l) => l.key === edit.line)
  if (!board || !line) return refuse('this line is no longer in the design', 'a line that is')
  const fits = board.positions.flatMap((p) => (p.kind === 'pin' && judgePin(board, p, line).fits ? [p.label] : []))
  const accepts = fits.join(', ') || 'no pin of this board'
  const pin = pinByLabel(board, edit.pin)
  if (!pin) return refuse(`${edit.pin} is not a pin of this board`, accepts)
  const verdict = judgePin(board, pin, line)
  if (!verdict.fits) return refuse(`${lineName(line)} cannot have ${pin.label}: ${verdict.reason}`, accepts)
  const rival = Object.entries(design.locks).find(([key, label]) => label === pin.label && key !== edit.line)
  if (rival)
    return refuse(
      `${pin.label} is locked to ${lines.flatMap((l) => (l.key === rival[0] ? [lineName(l)] : [])).join('') || 'another line'}`,
      accepts,
    )
  const { [pin.label]: _, ...keptFree } = design.keptFree
  const locked = { ...design, keptFree, locks: { ...design.locks, [edit.line]: pin.label } }
  const plan = planPins(locked, catalog, { past: 'kept', conflicts: 'unsaid', stop: afterRounds(EDIT_ROUNDS) })
  return plan.kind === 'planned'
    ? { ...locked, plan: { ...design.plan, pins: plan.pins } }
    : replanAround(locked, edit.line, pin.label)
}

/** Where nothing serves all lines any more: whoever was on the pin is left to be planned again, all others stay. */
function replanAround(design: Design, line: string, pin: string): Design {
  const pins = Object.fromEntries(
    Object.entries(design.plan.pins).filter(([key, label]) => label !== pin || key === line),
  )
  return { ...design, plan: { ...design.plan, pins: { ...pins, [line]: pin } } }
}

function keepFree(design: Design, edit: Extract<EditBody, { kind: 'keep-free' }>, catalog: Catalog): Step {
  if (!edit.free) return { ...design, keptFree: without(design.keptFree, edit.pin) }
  const board = catalog.boards[design.board.id]
  if (!board || !pinByLabel(board, edit.pin))
    return refuse(`${edit.pin} is not a pin of this board`, 'a printed label of this board')
  if (Object.values(design.locks).includes(edit.pin))
    return refuse(`a line is locked to ${edit.pin}`, 'a pin without a lock')
  const pins = Object.fromEntries(Object.entries(design.plan.pins).filter(([, label]) => label !== edit.pin))
  return { ...design, keptFree: { ...design.keptFree, [edit.pin]: true }, plan: { ...design.plan, pins } }
}

function acceptPlan(design: Design, pins: Record<string, string>, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  const taken = new Map<string, string>()
  for (const line of planLines(design, catalog)) {
    const label = pins[line.key]
    if (label === undefined) return refuse(`the plan leaves ${lineName(line)} without a pin`, 'a plan for every line')
    const pin = board && pinByLabel(board, label)
    const verdict = board && pin && judgePin(board, pin, line)
    if (!verdict?.fits)
      return refuse(
        `${lineName(line)} cannot have ${label}${verdict ? `: ${verdict.reason}` : ''}`,
        'a plan that obeys the hard rules',
      )
    if (taken.has(label))
      return refuse(`${label} is given to ${taken.get(label)} and ${lineName(line)}`, 'each pin once')
    if ((design.locks[line.key] ?? label) !== label)
      return refuse(`${lineName(line)} is locked to ${design.locks[line.key]}`, 'a plan that keeps the locks')
    if (design.keptFree[label]) return refuse(`${label} is kept free`, 'a plan without it')
    taken.set(label, lineName(line))
  }
  const broken = board && brokenTogether(board, planLines(design, catalog), pins)
  if (broken) return refuse(broken, 'a plan that obeys the hard rules')
  return { ...design, plan: { ...design.plan, pins } }
}

function addComponent(design: Design, edit: Extract<EditBody, { kind: 'add-component' }>, catalog: Catalog): Step {
  const { component } = edit
  const board = catalog.boards[design.board.id]
  if (edit.componentId in design.added) return refuse('this component is in the design already', 'a new id')
  if ('line' in component && !allLines(design, catalog).some((l) => l.key === component.line))
    return refuse('its line is no longer in the design', 'a line that is')
  if ('rail' in component && board && !railsOf(design, board, catalog).some((r) => r.id === component.rail))
    return refuse(
      `there is no rail “${component.rail}”`,
      railsOf(design, board, catalog)
        .map((r) => r.id)
        .join(', '),
    )
  if (Object.values(design.added).some((c) => placeOf(c) === placeOf(component) && c.type === component.type))
    return refuse(`there is a ${component.type} already`, 'removing the other first')
  const names = Object.values(design.added).flatMap((c): string[] => [...c.names])
  if (component.type === 'feed-diode' && component.rail !== design.boardFeed)
    return refuse('it belongs into the feed of the board', design.boardFeed ?? 'a board that is fed from outside')
  if ('part' in component && !catalog.parts[design.parts[component.part]?.kind ?? '']?.load)
    return refuse('it belongs across a load', 'a part that is a load')
  const twice = component.names.find((n) => names.includes(n))
  if (twice !== undefined) return refuse(`${twice} is the name of another component`, 'a free name')
  return { ...design, added: { ...design.added, [edit.componentId]: component } }
}

/** What feeds the board in place of USB: a rail that begins at a part, never one of the board's own. */
function feedBoard(design: Design, rail: string | null, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  if (rail === null || !board)
    return {
      ...design,
      boardFeed: null,
      added: Object.fromEntries(Object.entries(design.added).filter(([, c]) => c.type !== 'feed-diode')),
    }
  const sources = railsOf(design, board, catalog).filter((r) => r.partId !== null && r.through === null)
  const of = sources.find((r) => r.id === rail)
  const { maxV } = board.supply
  const accepts =
    sources
      .filter((r) => r.max <= maxV && !r.ac && r.isolated)
      .map((r) => r.name)
      .join(', ') || 'a part that feeds, within what the board stands'
  if (!of) return refuse(`nothing begins a rail “${rail}”`, accepts)
  if (!of.isolated)
    return refuse(
      `${of.name} is not proven to be isolated from the mains: it may never feed a board that a hand or a cable touches`,
      accepts,
    )
  if (of.ac) return refuse(`${of.name} is alternating; the board takes direct current`, accepts)
  if (of.max > maxV) return refuse(`the board stands ${maxV} V at its supply; ${of.name} reaches ${of.max} V`, accepts)
  // The diode that keeps it and USB apart stays with what feeds the board.
  const added = Object.fromEntries(
    Object.entries(design.added).filter(([, c]) => c.type !== 'feed-diode' || c.rail === rail),
  )
  const diode =
    board.supply.behind === 'nothing' || Object.values(added).some((c) => c.type === 'feed-diode')
      ? {}
      : {
          [`fd${rail.replace(/[^a-z0-9]/g, '')}`.slice(0, 24)]: {
            type: 'feed-diode' as const,
            rail,
            names: freeNames({ ...design, added }, 'D'),
          },
        }
  return { ...design, boardFeed: rail, added: { ...added, ...diode } }
}

/**
 * A wire that went to another pin than planned: recorded as it is, whatever the rules say of it, and marked as made.
 */
function madeOtherwise(design: Design, edit: Extract<EditBody, { kind: 'made-otherwise' }>, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  if (!board || !planLines(design, catalog).some((l) => l.key === edit.line))
    return refuse('this line is no longer in the design', 'a line that is')
  if (!pinByLabel(board, edit.pin))
    return refuse(
      `${edit.pin} is not a pin of this board`,
      board.positions.flatMap((p) => (p.kind === 'pin' ? [p.label] : [])).join(', '),
    )
  const { [edit.pin]: _, ...keptFree } = design.keptFree
  const locks = Object.fromEntries(Object.entries(design.locks).filter(([, pin]) => pin !== edit.pin))
  const as = replanAround({ ...design, keptFree, locks: { ...locks, [edit.line]: edit.pin } }, edit.line, edit.pin)
  const wires = Object.fromEntries(
    wiringOf(as, catalog).wires.flatMap((w) =>
      w.line === edit.line && w.to.kind === 'pin'
        ? [
            [
              w.key,
              {
                number: nextNumber(as),
                made: true,
                insulation: 'white',
                gaugeMm2: 0.22,
                ...formerWire(design, edit.line, catalog),
              },
            ],
          ]
        : [],
    ),
  )
  return { ...as, wires: { ...as.wires, ...wires } }
}

const nextNumber = (design: Design): number => Math.max(0, ...Object.values(design.wires).map((w) => w.number)) + 1

/** Insulation and gauge of the wire that was planned to the pin; the number is a new one. */
function formerWire(
  design: Design,
  line: string,
  catalog: Catalog,
): { insulation: string; gaugeMm2: number } | undefined {
  const key = wiringOf(design, catalog).wires.find((w) => w.line === line && w.to.kind === 'pin')?.key
  const wire = key === undefined ? undefined : design.wires[key]
  return wire && { insulation: wire.insulation, gaugeMm2: wire.gaugeMm2 }
}

function placeName(design: Design, path: string[]): string {
  const [collection, id] = path
  if (collection === 'signals' && id !== undefined) return design.signals[id]?.tag ?? 'a signal'
  if (collection === 'parts' && id !== undefined) return design.parts[id]?.label ?? 'a part'
  return `“${path.join(' › ')}”`
}
