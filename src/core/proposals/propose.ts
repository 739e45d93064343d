import { billOf } from '../bill/bill'
import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { Finding } from '../checks/finding'
import { cycleOf } from '../energy/cycle'
import { threePoint } from '../energy/life'
import type { Spread } from '../energy/spread'
import type { EditBody } from '../edits/edit'
import { type Design, emptyDesign, inOrder } from '../model/design'
import { planPins } from '../pins/planPins'
import { planLines } from '../lines/lines'
import { afterRounds, EDIT_ROUNDS } from '../pins/afterRounds'
import { lastsWords } from '../energy/words'
import { ruleWords } from '../nodefile/semanticDiff'
import { buildWay, type Draft, draftOf, type Told, tryEdit } from './buildWay'
import type { Act, Cause, Way } from './need'
import { powering } from './powering'
import { type Asked, type Power, readWish, type ReadWish } from './readWish'
import { mendable, settle } from './settled'

export interface Wish {
  text: string
  /** null: as the words say, else by USB. */
  power: Power | null
  /** What the node decides must work without network and controller. */
  alone: boolean
}

/** A whole node that would do: `edits` lead from an empty design on `board` to `design`. */
export interface Proposal {
  title: string
  board: string
  edits: EditBody[]
  design: Design
  power: string
  /** To buy in whole packs, and what is used of it, in the shop's currency. */
  price: { total: number; used: number; readyMade: number }
  /** How long the cell lasts, h; null on a wire. */
  life: Spread | null
  reasons: string[]
  costs: string[]
  findings: Finding[]
  /** Steps of the way that were refused, with the reason: nothing of that kind is expected. */
  refused: string[]
}

export interface Proposed {
  read: ReadWish
  /** What of the wish cannot be done yet, in words. */
  notYet: string[]
  proposals: Proposal[]
}

/** What sets what off, where both are asked for. */
const LINKS: readonly [Cause, Act][] = [
  ['presence', 'light'],
  ['switch', 'light'],
  ['press', 'light'],
  ['sound', 'light'],
  ['press', 'opener'],
]

/** What people join a cause and an act with; without one of them a door and a lamp are two wishes. */
const JOINING = ['while', 'when', 'whenever', 'if', 'until', 'soon']
/** A press or a switch that stands beside a lamp is meant for it. */
const MEANT: readonly Cause[] = ['press', 'switch']

const MOST = 3

/**
 * Two or three whole nodes for a wish, the plainest first: other ways to know it, or another board. Pure: the same wish
 * and catalogue give the same proposals. `found` hears of each as soon as it is there.
 */
export function propose(wish: Wish, catalog: Catalog, found?: (soFar: Proposed) => void): Proposed {
  const read = readWish(wish.text, catalog)
  const power = wish.power ?? read.power ?? 'usb'
  const proposals: Proposal[] = []
  const take = (proposal: Proposal | null): void => {
    if (!proposal || proposals.length >= MOST || proposals.some((p) => sameNode(p, proposal))) return
    const same = proposals.some((p) => p.title === proposal.title)
    const board = shortName(catalog.boards[proposal.board]?.name ?? '')
    proposals.push(same ? { ...proposal, title: `${proposal.title}; on another board, the ${board}` } : proposal)
    found?.({ read, notYet: notYet(read), proposals: [...proposals] })
  }
  if (read.needs.some(({ need }) => need.ways.length > 0)) {
    const job: Job = { read, power, alone: wish.alone, catalog }
    const choices = waysFor(read.needs, power, read.words)
    for (const ways of choices) take(onBestBoard(job, ways, []))
    const [plainest] = choices
    if (plainest)
      take(
        onBestBoard(
          job,
          plainest,
          proposals.map((p) => p.board),
        ),
      )
  }
  return { read, notYet: notYet(read), proposals }
}

const sameNode = (a: Proposal, b: Proposal): boolean =>
  a.board === b.board && JSON.stringify(kindsOf(a.design)) === JSON.stringify(kindsOf(b.design))
const kindsOf = (design: Design): string[] => inOrder(design.parts).map((p) => p.value.kind)

function notYet({ needs, withoutNetwork, unanswered, words }: ReadWish): string[] {
  return [
    ...needs.flatMap(({ need }) =>
      need.later !== undefined && (need.laterWhen === undefined || need.laterWhen.some((w) => words.includes(w)))
        ? [need.later]
        : [],
    ),
    ...(withoutNetwork
      ? ['Where there is no network nothing it measures is heard: a radio link to a gateway cannot be built yet.']
      : []),
    ...(unanswered.length > 0
      ? [`Nothing on the shelf answers to ${unanswered.map((w) => `“${w}”`).join(', ')}.`]
      : []),
  ]
}

interface Chosen {
  asked: Asked
  way: Way
}

/** The plainest way for every need, then the same with another way for the first need that has one. */
function waysFor(needs: readonly Asked[], power: Power, words: readonly string[]): Chosen[][] {
  const sorted = needs
    .map((asked) => ({ asked, ways: inPreference(asked, power, words) }))
    .filter(({ ways }) => ways.length > 0)
  const plain = sorted.map(({ asked, ways }) => ({ asked, way: ways[0] as Way }))
  // What is known can be known in more ways that matter than a thing can be switched in.
  const knows = sorted.findIndex(({ ways }) => ways.length > 1 && ways.every((w) => Object.keys(w.acts).length === 0))
  const open = knows >= 0 ? knows : sorted.findIndex(({ ways }) => ways.length > 1)
  const others = sorted[open]?.ways.slice(1) ?? []
  return [plain, ...others.map((way) => plain.map((c, i) => (i === open ? { ...c, way } : c)))]
}

function inPreference({ need, count }: Asked, power: Power, words: readonly string[]): Way[] {
  const rank = (way: Way) => {
    const asked = way.asked.some((w) => words.includes(w)) ? 0 : 1
    const few = way.most !== undefined && count <= way.most ? 0 : 1
    return (power === 'cell' && way.awake ? 4 : 0) + asked * 2 + few
  }
  const fits = need.ways.filter((w) => w.most === undefined || count <= w.most)
  return [...fits].sort((a, b) => rank(a) - rank(b))
}

interface Job {
  read: ReadWish
  power: Power
  alone: boolean
  catalog: Catalog
}

/** On the cheapest board on which nothing is left to mend, or with the least left where there is none. */
function onBestBoard(job: Job, chosen: readonly Chosen[], not: readonly string[]): Proposal | null {
  let best: { proposal: Proposal; left: number } | null = null
  for (const board of boardsFor(job).filter((b) => !not.includes(b.id))) {
    const proposal = onBoard(job, chosen, board)
    if (!proposal) continue
    const left = mendable(proposal.findings).reduce((n, f) => n + (f.severity === 'stop' ? 100 : 1), 0)
    if (!best || left < best.left) best = { proposal, left }
    if (left === 0) break
  }
  return best?.proposal ?? null
}

/** On a cell those that rest at least current first, otherwise the cheapest. */
function boardsFor({ power, catalog, read }: Job): Board[] {
  const boards = Object.values(catalog.boards).filter((b) => b.radios.includes('wifi'))
  const asleep = power === 'cell' && read.everyS !== null
  const rest = (b: Board) => (b.wake.timer ? b.currents.sleepA.likely : 1)
  const weight = (b: Board) => (asleep ? rest(b) : b.cost.each)
  return boards.sort((a, b) => weight(a) - weight(b) || a.cost.each - b.cost.each || a.id.localeCompare(b.id))
}

const blank = (board: Board): Design =>
  emptyDesign({
    id: '00000000-0000-4000-8000-000000000000',
    name: 'Proposal',
    slug: 'proposal',
    place: null,
    board: { id: board.id, version: board.version },
  })

function onBoard(job: Job, chosen: readonly Chosen[], board: Board): Proposal | null {
  const { read, catalog } = job
  const draft = draftOf(blank(board))
  let n = 0
  const newId = () => `p${(n++).toString(36).padStart(3, '0')}`
  const feeding = (ac: string | null) =>
    powering({
      power: job.power,
      needs12V: chosen.some(({ way }) => needs12V(way)),
      panel: chosen.some(({ asked }) => asked.need.needs12V === 'panel'),
      ac,
      capacityAh: read.capacityAh,
    })
  // What is fed from something of the wish itself comes after it.
  const own = job.power === '24v-ac'
  if (!own) for (const edit of feeding(null).edits) tryEdit(draft, edit, catalog)
  const { v12 } = feeding(null)
  for (const { asked, way } of chosen) buildWay(draft, way, asked.count, { catalog, wish: read, v12, newId })
  const fed = feeding(draft.feeding)
  if (own) for (const edit of fed.edits) tryEdit(draft, edit, catalog)
  if (read.everyS !== null && job.power === 'cell') tryEdit(draft, { kind: 'sleep', everyS: read.everyS }, catalog)
  const rules = job.alone ? linked(draft, job, newId) : 0
  const plan = planPins(draft.design, catalog, { past: 'afresh', stop: afterRounds(EDIT_ROUNDS) })
  if (plan.kind !== 'planned') return null
  tryEdit(draft, { kind: 'accept-plan', pins: plan.pins }, catalog)
  const findings = settle(draft, catalog)
  const { design, edits } = draft
  const bill = billOf(design, catalog)
  const life = job.power === 'cell' ? lifeOf(design, board, catalog) : null
  return {
    title: titleOf(chosen),
    board: board.id,
    edits,
    design,
    power: fed.words,
    price: { total: bill.total, used: bill.used, readyMade: bill.readyMade },
    life,
    reasons: [
      ...chosen.map(({ asked, way }) => `${capital(asked.need.asks)}. ${way.why}`),
      `Power: ${fed.why}`,
      boardReason(job, board, design, catalog),
      ...(rules > 0 ? [`Works without network and controller: ${ruleList(design)}.`] : []),
    ],
    costs: [
      ...new Set(chosen.map(({ way }) => way.costs)),
      ...(life && read.lastsH !== null && life.likely < read.lastsH
        ? [
            `By estimate it lasts ${lastsWords(life.likely)}, not the ${lastsWords(read.lastsH)} asked for: wake it less often, give it a fixed address, or a larger cell.`,
          ]
        : []),
      ...(life && design.sleep === null
        ? ['It never sleeps: the cell is for carrying it about for hours, not for leaving it somewhere.']
        : []),
      ...(rules === 0 && chosen.some(({ way }) => switches(way)) ? [left(job.alone)] : []),
    ],
    findings,
    refused: draft.refused,
  }
}

/** The rules that join what is told and what acts, in words; those that belong to a thing itself are said by it. */
function ruleList(design: Design): string {
  const name = (id: string) => design.signals[id]?.name ?? id
  const words = Object.values(design.rules).map((r) => ruleWords({ ...r, from: name(r.from), to: name(r.to) }))
  return words.slice(-4).join('; ')
}

const switches = (way: Way): boolean => way.load !== undefined || Object.keys(way.acts).length > 0

const left = (alone: boolean): string =>
  alone
    ? 'When it acts is decided by the controller: nothing in the wish says what should set it off.'
    : 'When it acts is decided by the controller: without network nothing is switched.'

const needs12V = (way: Way): boolean =>
  way.load !== undefined || way.parts.some((p) => Object.values(p.feeds).includes('12V'))

const capital = (s: string): string => s.charAt(0).toUpperCase() + s.slice(1)
const shortName = (name: string): string => name.split(',')[0] ?? name

const titleOf = (chosen: readonly Chosen[]): string =>
  capital(chosen.map(({ asked, way }) => countedName(asked.count, way)).join(', '))

function countedName(count: number, way: Way): string {
  if (count === 1) return way.name
  return way.matrix === true || way.expander === true ? `${way.name} for ${count}` : `${count} ${way.name}`
}

function boardReason({ power, read }: Job, board: Board, design: Design, catalog: Catalog): string {
  const lines = planLines(design, catalog).length
  const pins = board.positions.filter((p) => p.kind === 'pin').length
  const why =
    power === 'cell' && read.everyS !== null
      ? `rests at about ${(board.currents.sleepA.likely * 1e6).toFixed(0)} µA`
      : `costs ${board.cost.each.toFixed(2)}`
  return `Board: the ${shortName(board.name)} ${why} and carries all ${lines} lines; ${pins - lines} of its pins stay free.`
}

/** Rules on the node between what is told and what acts; how many there are. */
function linked(draft: Draft, { catalog, read }: Job, newId: () => string): number {
  const joined = JOINING.some((w) => read.words.includes(w))
  let rules = 0
  for (const [cause, act] of LINKS) {
    const acting = draft.acts.get(act)?.[0]
    if (!acting || !(joined || MEANT.includes(cause))) continue
    for (const told of draft.tells.get(cause) ?? []) {
      const rule = (when: Told['on'], forS: number, value: boolean | 'toggle') =>
        Number(
          tryEdit(
            draft,
            {
              kind: 'set-rule',
              ruleId: newId(),
              rule: { from: told.signalId, when, forS, to: acting.signalId, do: value, works: 'always' },
            },
            catalog,
          ),
        )
      if (told.off === undefined) rules += rule(told.on, told.onForS, act === 'light' ? 'toggle' : acting.on)
      else {
        rules += rule(told.on, told.onForS, acting.on)
        if (acting.off !== undefined) rules += rule(told.off, told.offForS, acting.off)
      }
    }
    if ((draft.tells.get(cause)?.length ?? 0) > 0) return rules
  }
  return rules
}

/** How long its cell lasts, h, from every input at its worst to every one at its best; null where no cell feeds it. */
function lifeOf(design: Design, board: Board, catalog: Catalog): Spread | null {
  const cycle = cycleOf(design, board, catalog)
  return cycle && threePoint(cycle)
}
