import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { PartKind } from '../catalog/part'
import { applyAll } from '../edits/applyAll'
import type { EditBody } from '../edits/edit'
import { freeLabel, plainName } from '../edits/freeLabel'
import { type Design, inOrder } from '../model/design'
import { type Conditions, cycleOf, INDOORS } from './cycle'
import { lifeH, likelyOf } from './life'

/** One thing that could be otherwise, and what it would change. */
export interface Lever {
  id: string
  words: string
  /** Edits that do it; null for a comparison that cannot be applied. */
  edits: EditBody[] | null
  /** What it costs or needs. */
  note: string
  lifeH: number
  /** Against now, h; negative where it shortens life. */
  gainH: number
  /** Phase it acts on, where it acts on one. */
  phase: 'asleep' | 'join' | 'listen' | 'measure' | null
}

const LONGEST_S = 604_800
const SHORTEST_S = 5

/** Likely life of a design under these conditions, h; null where no cell feeds it. */
export function likelyLifeH(design: Design, catalog: Catalog, conditions: Conditions = INDOORS): number | null {
  const board = catalog.boards[design.board.id]
  const cycle = board && cycleOf(design, board, catalog, conditions)
  return cycle ? lifeH(cycle, likelyOf(cycle)) : null
}

/** Shortest interval with which it likely lasts `wantedH`, s, whole seconds; null where none does. */
export function intervalFor(design: Design, catalog: Catalog, wantedH: number): number | null {
  const at = (everyS: number): number =>
    likelyLifeH({ ...design, sleep: { listenS: design.sleep?.listenS ?? 2, everyS } }, catalog) ?? 0
  if (at(LONGEST_S) < wantedH) return null
  let [low, high] = [SHORTEST_S, LONGEST_S]
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2)
    if (at(middle) >= wantedH) high = middle
    else low = middle
  }
  return at(low) >= wantedH ? low : high
}

/** Everything that could be otherwise, sorted by what it gains. */
export function levers(design: Design, catalog: Catalog, newId: () => string): Lever[] {
  const now = likelyLifeH(design, catalog)
  if (now === null) return []
  const lever = (
    of: Omit<Lever, 'lifeH' | 'gainH' | 'edits'> & { edits: EditBody[]; compare?: Conditions; applied?: boolean },
  ): Lever[] => {
    const after = applyAll(design, of.edits, catalog)
    if ('reason' in after) return []
    const life = likelyLifeH(after.design, catalog, of.compare)
    if (life === null) return []
    const { compare: _, applied = true, ...rest } = of
    return [{ ...rest, edits: applied ? of.edits : null, lifeH: life, gainH: life - now }]
  }
  return [
    ...sleepLevers(design, lever),
    ...(design.network.address === 'fixed' || !design.sleep ? [] : fixedAddress(design, lever)),
    ...lever({
      id: 'peer',
      words: 'frames to a gateway instead of Wi-Fi',
      edits: [],
      applied: false,
      compare: { ...INDOORS, link: 'peer' },
      note: 'needs a gateway on mains within reach; only a comparison yet',
      phase: 'join',
    }),
    ...boardLevers(design, catalog, lever),
    ...railLever(design, catalog, newId, lever),
    ...cellLevers(design, catalog, newId, lever),
    ...oneMore(design, catalog, newId, lever),
    ...lever({
      id: 'cold',
      words: 'outside at −5 °C',
      edits: [],
      applied: false,
      compare: { ...INDOORS, tempC: -5 },
      note: 'what the cold leaves of the cell',
      phase: null,
    }),
  ].sort((a, b) => b.gainH - a.gainH)
}

type Make = (
  of: Omit<Lever, 'lifeH' | 'gainH' | 'edits'> & { edits: EditBody[]; compare?: Conditions; applied?: boolean },
) => Lever[]

function sleepLevers({ sleep }: Design, lever: Make): Lever[] {
  if (!sleep)
    return lever({
      id: 'sleep',
      words: 'sleep, and wake every ten minutes',
      edits: [{ kind: 'sleep', everyS: 600 }],
      note: 'it hears commands only after each waking',
      phase: 'asleep',
    })
  const { everyS, listenS } = sleep
  return [
    ...(everyS * 2 <= LONGEST_S
      ? lever({
          id: 'interval',
          words: `wake every ${minutes(everyS * 2)} instead of ${minutes(everyS)}`,
          edits: [{ kind: 'sleep', everyS: everyS * 2, listenS }],
          note: 'half as many readings',
          phase: 'asleep',
        })
      : []),
    ...(listenS > 0.5
      ? lever({
          id: 'listen',
          words: 'listen 0.5 s after each waking',
          edits: [{ kind: 'sleep', everyS, listenS: 0.5 }],
          note: 'a command must be there already',
          phase: 'listen',
        })
      : []),
  ]
}

const minutes = (s: number): string => (s % 60 === 0 ? `${s / 60} min` : `${s} s`)

function fixedAddress({ network }: Design, lever: Make): Lever[] {
  return lever({
    id: 'fixed',
    words: 'a fixed address',
    edits: [
      {
        kind: 'connect',
        ref: network.ref,
        address: 'fixed',
        keepAliveS: network.keepAliveS,
        fixed: { ip: '192.168.1.40', mask: '255.255.255.0', gateway: '192.168.1.1', dns: '192.168.1.1' },
      },
    ],
    // Which one is the shop's to say: it is entered under Program, How it connects.
    applied: false,
    note: 'choose one under Program, How it connects; you keep the list',
    phase: 'join',
  })
}

function boardLevers(design: Design, catalog: Catalog, lever: Make): Lever[] {
  const own = catalog.boards[design.board.id]
  return Object.values(catalog.boards)
    .filter(
      (b: Board) => own && b.id !== own.id && b.wake.timer && b.currents.sleepA.likely < own.currents.sleepA.likely,
    )
    .flatMap((b) =>
      lever({
        id: `board-${b.id}`,
        words: `the ${b.name.split(',')[0] ?? b.name}`,
        edits: [{ kind: 'choose-board', board: b.id }],
        note: `rests at about ${(b.currents.sleepA.likely * 1e6).toFixed(0)} µA; pins are planned anew`,
        phase: 'asleep',
      }),
    )
}

const isCell = (kind: PartKind | undefined): boolean => kind?.cell !== undefined && kind.cell.chemistry !== 'lead'

/** Other cells in place of the one that feeds the board. */
function cellLevers(design: Design, catalog: Catalog, newId: () => string, lever: Make): Lever[] {
  const [oldId = ''] = design.boardFeed?.split('.') ?? []
  const old = catalog.parts[design.parts[oldId]?.kind ?? '']
  if (!isCell(old)) return []
  return Object.values(catalog.parts)
    .filter((k) => isCell(k) && k.id !== old?.id)
    .flatMap((kind) => {
      const partId = newId()
      const [source] = kind.terminals.filter((t) => t.role === 'source')
      return lever({
        id: `cell-${kind.id}`,
        words: kind.name.charAt(0).toLowerCase() + kind.name.slice(1),
        edits: [
          { kind: 'add-part', partId, part: kind.id, label: freeLabel(plainName(kind), design), signals: [] },
          { kind: 'feed-board', rail: `${partId}.${source?.id ?? 'p'}` },
          { kind: 'remove-part', partId: oldId },
        ],
        note: `${kind.summary}; ${kind.cost.each.toFixed(2)}`,
        phase: null,
      })
    })
    .filter((l) => l.lifeH > 0)
}

/** Everything that hangs on the board's 3.3 V put behind a switch the node opens while it sleeps. */
function railLever(design: Design, catalog: Catalog, newId: () => string, lever: Make): Lever[] {
  if (!design.sleep) return []
  const moved = inOrder(design.parts).flatMap(({ id, value: part }) =>
    (catalog.parts[part.kind]?.terminals ?? []).flatMap((t): EditBody[] =>
      t.role === 'supply' && part.feeds[t.id] === '3V3' ? [{ kind: 'feed', partId: id, terminal: t.id, rail: '' }] : [],
    ),
  )
  const kind = catalog.parts['rail-switch']
  if (moved.length === 0 || !kind) return []
  const partId = newId()
  return lever({
    id: 'rail',
    words: 'switch the feed of its parts off asleep',
    edits: [
      { kind: 'add-part', partId, part: kind.id, label: freeLabel(plainName(kind), design), signals: [] },
      { kind: 'feed', partId, terminal: 'vin', rail: '3V3' },
      ...moved.map((e) => (e.kind === 'feed' ? { ...e, rail: `${partId}.out` } : e)),
    ],
    note: `one transistor stage and one pin; ${kind.cost.each.toFixed(2)}`,
    phase: 'asleep',
  })
}

/** One more of the part that measures first. */
function oneMore(design: Design, catalog: Catalog, newId: () => string, lever: Make): Lever[] {
  const found = inOrder(design.parts).find(({ value }) =>
    catalog.parts[value.kind]?.channels.some((c) => c.access === 'reading'),
  )
  const kind = catalog.parts[found?.value.kind ?? '']
  if (!kind) return []
  return lever({
    id: 'one-more',
    words: `one more ${plainName(kind).toLowerCase()}`,
    edits: [
      { kind: 'add-part', partId: newId(), part: kind.id, label: freeLabel(plainName(kind), design), signals: [] },
    ],
    applied: false,
    note: 'add it under Parts',
    phase: 'measure',
  })
}
