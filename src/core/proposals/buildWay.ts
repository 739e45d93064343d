import type { Catalog } from '../catalog/catalog'
import type { PartKind } from '../catalog/part'
import type { EditBody } from '../edits/edit'
import { freeLabel, plainName } from '../edits/freeLabel'
import { applyEdit } from '../edits/apply'
import type { Trigger } from '../model/behaviour'
import { type Conditioning, type Design } from '../model/design'
import { slugFrom } from '../model/slug'
import type { Act, Cause, Way } from './need'
import type { ReadWish } from './readWish'

/** One thing that sets off or is set off, as a signal of the design. */
export interface Told {
  signalId: string
  on: Trigger
  onForS: number
  off: Trigger | undefined
  offForS: number
}
interface Acting {
  signalId: string
  on: boolean
  off: boolean | undefined
}

/** A design while it is being put together: every step is an edit that was accepted. */
export interface Draft {
  design: Design
  edits: EditBody[]
  tells: Map<Cause, Told[]>
  acts: Map<Act, Acting[]>
  /** Edits that were refused, with the reason. */
  refused: string[]
  /** Terminal of a part that can feed the node. */
  feeding: string | null
}

export const draftOf = (design: Design): Draft => ({
  design,
  edits: [],
  tells: new Map(),
  acts: new Map(),
  refused: [],
  feeding: null,
})

/** Applies an edit and remembers it; a refused one is noted and changes nothing. */
export function tryEdit(draft: Draft, edit: EditBody, catalog: Catalog): boolean {
  const applied = applyEdit(draft.design, edit, catalog)
  if (!applied.ok) {
    draft.refused.push(applied.reason)
    return false
  }
  draft.design = applied.design
  draft.edits.push(edit)
  return true
}

interface Around {
  catalog: Catalog
  wish: ReadWish
  v12: string | null
  /** Ids that no other thing of the draft has. */
  newId: () => string
}

/** Puts `count` of a way into the draft: parts, joints, signals, rules of its own, and what it tells or does. */
export function buildWay(draft: Draft, way: Way, count: number, around: Around): void {
  if (way.matrix === true) return buildMatrix(draft, count, around)
  if (way.expander === true) return buildExpander(draft, count, around)
  for (let n = 0; n < count; n++) buildOne(draft, way, around)
}

function buildOne(draft: Draft, way: Way, around: Around): void {
  const { catalog, newId } = around
  const partIds = new Map<string, string>()
  const signalIds = new Map<string, string>()
  for (const p of partsOf(way, catalog)) {
    const partId = newId()
    partIds.set(p.id, partId)
    const signals = Object.entries(p.signals).map(([channel, s]) => {
      const id = newId()
      signalIds.set(`${p.id}.${channel}`, id)
      return { id, channel, ...named(draft.design, s.slug) }
    })
    if (p.id === 'sw' && signals[0]) signalIds.set('sw.out', signals[0].id)
    const label = labelFor(catalog.parts[p.kind], draft.design)
    if (
      !tryEdit(
        draft,
        { kind: 'add-part', partId, part: p.kind, label, signals: withSlugs(signals, draft.design) },
        catalog,
      )
    )
      continue
    for (const [setting, value] of Object.entries(p.settings))
      tryEdit(draft, { kind: 'set-part', partId, setting, value }, catalog)
  }
  join(draft, way, partIds, around)
  condition(draft, way, signalIds, around)
  for (const r of way.inner) {
    const [from, to] = [signalIds.get(r.from), signalIds.get(r.to)]
    if (from && to)
      tryEdit(
        draft,
        { kind: 'set-rule', ruleId: newId(), rule: { from, when: r.when, forS: 0, to, do: r.do, works: 'always' } },
        catalog,
      )
  }
  remember(draft, way, signalIds)
  const [part = '', terminal = ''] = way.feeding?.split('.') ?? []
  if (way.feeding !== undefined) draft.feeding = `${partIds.get(part) ?? part}.${terminal}`
}

type WayPart = Way['parts'][number]

/** The parts of a way; a load comes with what switches it. */
function partsOf(way: Way, catalog: Catalog): WayPart[] {
  if (way.load === undefined || way.by === undefined) return way.parts
  const by = catalog.parts[way.by]
  const output = by?.channels.find((c) => c.access === 'output')
  const contact = by?.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'common')
  // A stage between load and ground, or a contact in front of the load.
  const low = contact === undefined
  const load: WayPart = {
    id: 'load',
    kind: way.load,
    settings: {},
    feeds: low ? { p: '12V', n: 'sw.d' } : { [loadTerminal(catalog, way.load)]: 'sw.no' },
    signals: {},
  }
  const sw: WayPart = {
    id: 'sw',
    kind: way.by,
    settings: { load: choiceFor(by, way.load) },
    feeds: low ? {} : { com: '12V' },
    signals: output ? { [output.id]: { slug: way.slug ?? output.proposes.slug, set: way.set } } : {},
  }
  return [sw, load]
}

const loadTerminal = (catalog: Catalog, kind: string): string =>
  catalog.parts[kind]?.terminals.find((t) => t.role === 'supply')?.id ?? 'p'

/** The choice of a switching part that means this load. */
function choiceFor(kind: PartKind | undefined, load: string): string {
  for (const setting of kind?.settings ?? []) {
    if (!('choices' in setting)) continue
    const choice = setting.choices.find((c) => c.means?.load?.part === load)
    if (choice) return choice.id
  }
  return 'nothing-yet'
}

function join(draft: Draft, way: Way, partIds: Map<string, string>, { catalog, v12 }: Around): void {
  for (const p of partsOf(way, catalog)) {
    const partId = partIds.get(p.id)
    for (const [terminal, to] of Object.entries(p.feeds)) {
      const [other = '', at = ''] = to.split('.')
      const rail = to === '12V' ? v12 : `${partIds.get(other) ?? other}.${at}`
      if (partId !== undefined && rail !== null) tryEdit(draft, { kind: 'feed', partId, terminal, rail }, catalog)
    }
  }
}

function condition(draft: Draft, way: Way, signalIds: Map<string, string>, { catalog }: Around): void {
  for (const p of partsOf(way, catalog)) {
    for (const [channel, s] of Object.entries(p.signals)) {
      const signalId = signalIds.get(`${p.id}.${channel}`)
      if (signalId === undefined) continue
      if (s.set) tryEdit(draft, { kind: 'condition', signalId, set: s.set }, catalog)
      const follows = s.opposite === undefined ? undefined : signalIds.get(s.opposite)
      if (follows !== undefined)
        tryEdit(draft, { kind: 'condition', signalId, set: { atStart: 'opposite', follows } }, catalog)
      if (s.publish) tryEdit(draft, { kind: 'publish', signalId, set: s.publish }, catalog)
    }
  }
}

function remember(draft: Draft, way: Way, signalIds: Map<string, string>): void {
  for (const [cause, t] of Object.entries(way.tells)) {
    const signalId = signalIds.get(t.signal)
    const told = { on: t.on, onForS: t.onForS ?? 0, off: t.off, offForS: t.offForS ?? 0 }
    if (signalId !== undefined) push(draft.tells, cause as Cause, { signalId, ...told })
  }
  for (const [act, a] of Object.entries(way.acts)) {
    const signalId = signalIds.get(a.signal)
    if (signalId !== undefined) push(draft.acts, act as Act, { signalId, on: a.on, off: a.off })
  }
}

const push = <K, V>(map: Map<K, V[]>, key: K, value: V): void => void map.set(key, [...(map.get(key) ?? []), value])

const MATRICES: readonly [number, string][] = [
  [12, 'keys-matrix-3x4'],
  [16, 'keys-matrix-4x4'],
  [25, 'keys-matrix-5x5'],
]

/** Keys in as many matrices as take them, the smallest that do. */
function buildMatrix(draft: Draft, count: number, around: Around): void {
  for (let done = 0; done < count;) {
    const [takes, kind] = MATRICES.find(([n]) => n >= count - done) ?? ([25, 'keys-matrix-5x5'] as const)
    const here = Math.min(count - done, takes)
    buildKeys(draft, kind, { from: done + 1, count: here }, around)
    done += here
  }
}

function buildExpander(draft: Draft, count: number, around: Around): void {
  for (let done = 0; done < count; done += 16)
    buildKeys(draft, 'expander-16', { from: done + 1, count: Math.min(count - done, 16) }, around)
}

interface Keys {
  /** Number of the first one. */
  from: number
  count: number
}

function buildKeys(draft: Draft, kindId: string, { from, count }: Keys, { catalog, wish, newId }: Around): void {
  const kind = catalog.parts[kindId]
  if (!kind) return
  const partId = newId()
  const label = labelFor(kind, draft.design)
  const slugs = Object.values(draft.design.signals).map((s) => s.slug)
  const signals = kind.channels.slice(0, count).map((c, i) => {
    const slug = slugFrom(`key-${from + i}`, slugs)
    slugs.push(slug)
    return { id: newId(), channel: c.id, name: slug.replaceAll('-', ' '), slug }
  })
  // One edit adds sixteen signals at most; the others are wanted one by one.
  const first = signals.slice(0, 16)
  if (!tryEdit(draft, { kind: 'add-part', partId, part: kindId, label, signals: first }, catalog)) return
  for (const signal of signals.slice(16)) tryEdit(draft, { kind: 'add-signal', partId, signal }, catalog)
  const patterns = [
    'single',
    ...(wish.double ? ['double'] : []),
    ...(wish.long ? ['long'] : []),
  ] as Conditioning['patterns']
  if (patterns.length > 1)
    for (const { id } of signals) tryEdit(draft, { kind: 'condition', signalId: id, set: { patterns } }, catalog)
  const told = signals.map(({ id }): Told => ({ signalId: id, on: 'single', onForS: 0, off: undefined, offForS: 0 }))
  draft.tells.set('press', [...(draft.tells.get('press') ?? []), ...told])
}

const named = (design: Design, slug: string) => {
  const free = slugFrom(
    slug,
    Object.values(design.signals).map((s) => s.slug),
  )
  return { name: free.replaceAll('-', ' '), slug: free }
}

/** Signals of one part may want the same name. */
function withSlugs<T extends { slug: string; name: string }>(signals: T[], design: Design): T[] {
  const taken = Object.values(design.signals).map((s) => s.slug)
  return signals.map((s) => {
    const slug = slugFrom(s.slug, taken)
    taken.push(slug)
    return { ...s, slug, name: slug.replaceAll('-', ' ') }
  })
}

const labelFor = (kind: PartKind | undefined, design: Design): string =>
  freeLabel(kind ? plainName(kind) : 'Part', design)
