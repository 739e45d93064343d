import { type Board, pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { carriesSenders } from '../catalog/codesFit'
import { airSourceOf } from '../model/airSource'
import { momentOf } from '../model/behaviour'
import { byId, type Design, type DesignRule, inOrder } from '../model/design'
import { canonicalJson } from '../hash/canonicalJson'
import { sha256Hex } from '../hash/sha256Hex'
import { channelOf } from '../publish/channelOf'
import { type BrokerAddress, describe, type ThingDescription } from '../publish/describe'
import { lateAfterS } from '../publish/staleness'
import type { Surroundings } from '../surroundings/surroundings'
import { omitDefault } from '../drivers/omitDefault'
import { terminalPin } from '../drivers/terminalPin'
import { compileSignal } from './compileSignal'
import { type Guard, type LocalRule, type NodeFile, nodeFileSchema } from './nodeFile'

export interface Compiled {
  file: NodeFile
  /** Canonical text of the file: what goes to the board, byte for byte. */
  text: string
  /** SHA-256 of `text`. */
  hash: string
  td: ThingDescription
}

export type CompileResult = { ok: true; compiled: Compiled } | { ok: false; reasons: string[] }

/**
 * The node file of a design, or every reason why it cannot be written yet. Same design, surroundings, revision and
 * broker: same bytes.
 */
export function compile(
  design: Design,
  around: Surroundings,
  catalog: Catalog,
  broker: BrokerAddress,
  revision: number,
): CompileResult {
  const board = catalog.boards[design.board.id]
  if (!board) return { ok: false, reasons: [`board ${design.board.id} is not on the shelf`] }
  const { signals, unwritten } = compiledSignals(design, board, catalog)
  const secure = design.network.secure ? broker.secure : undefined
  const reasons = [
    ...unwritten,
    ...whyNotAsleep(design, board),
    ...whyNotSecure(design, board, broker),
    ...whyNotHeard(design, around, board),
  ]
  if (reasons.length > 0) return { ok: false, reasons }
  const slugOf = (id: string) => design.signals[id]?.slug ?? ''
  const guards = byId(design.guards).map(({ value: g }): Guard =>
    g.kind === 'needs'
      ? { kind: 'needs', output: slugOf(g.output), input: slugOf(g.input), is: g.is }
      : { kind: 'exclusive', of: g.of.map(slugOf) },
  )
  const rules = byId(design.rules).map(({ value: r }): LocalRule => ({
    from: around.told[r.from]?.topic ?? slugOf(r.from),
    when: momentOf(r.when) ?? r.when,
    ...omitDefault('forS', lastsS(design, r), 0),
    to: slugOf(r.to),
    do: r.do,
    ...omitDefault('works', r.works, 'always'),
  }))
  const { network } = design
  const parsed = nodeFileSchema.safeParse({
    format: 'vivid-node/node-file',
    version: 1,
    revision,
    id: design.id,
    node: design.slug,
    root: broker.root,
    board: board.id,
    ...omitDefault('name', design.name, design.slug),
    ...omitDefault('area', around.place ?? '', ''),
    broker: {
      host: broker.host,
      keepAliveS: network.keepAliveS,
      ...(secure ? { port: secure.port, print: secure.print } : { port: broker.port }),
    },
    network: network.ref,
    ...(network.address === 'fixed' && network.fixed ? { address: network.fixed } : {}),
    ...omitDefault('timeServer', around.network?.timeServer ?? '', ''),
    ...omitDefault('quiet', network.quiet || usesConsole(design, board), false),
    healthS: 30,
    ...(design.sleep ? { sleep: { everyS: design.sleep.everyS, listenS: design.sleep.listenS } } : {}),
    ...railsIn(design, board, catalog),
    ...supplyIn(design, catalog),
    signals,
    ...(around.air && hears(signals) && carriesSenders(board) ? { air: around.air } : {}),
    ...(guards.length > 0 ? { guards } : {}),
    ...(rules.length > 0 ? { rules } : {}),
  })
  // What edits let in always fits; a design from elsewhere may not.
  if (!parsed.success)
    return {
      ok: false,
      reasons: parsed.error.issues.map(
        (i) =>
          `${i.path.map((p) => (typeof p === 'number' && i.path[0] === 'signals' ? String(signals[p]?.slug ?? p) : String(p))).join(' › ')}: ${i.message}`,
      ),
    }
  const file = parsed.data
  const text = canonicalJson(file)
  return { ok: true, compiled: { file, text, hash: sha256Hex(text), td: describe(design, around, catalog, broker) } }
}

/** Has a receiver: without one there is nothing to understand. */
const hears = (signals: readonly Fields[]): boolean => signals.some((s) => s.driver === 'radio' && s.access === 'event')

/** Something of it is wired to the pins the console speaks on: what is said there would go to that. */
const usesConsole = (design: Design, board: Board): boolean =>
  Object.values(design.plan.pins).some((label) => pinByLabel(board, label)?.quirks.some((q) => q.id === 'console'))

/** What a rule waits for lasts this long, s: what is gone has been silent for as long as makes it late. */
const lastsS = (design: Design, { when, from, forS }: DesignRule): number =>
  when === 'gone' ? lateAfterS(design.signals[from]?.publish.intervalS ?? 0) : forS

/** Pins that feed rails of their own while the node is awake. */
function railsIn(design: Design, board: Board, catalog: Catalog): Pick<NodeFile, 'rails'> {
  const rails = inOrder(design.parts).flatMap(({ id, value: part }) => {
    const kind = catalog.parts[part.kind]
    const how = kind?.railSwitch
    const label = kind && how && terminalPin(design, id, kind, how.line, catalog)
    const pin = label === undefined ? undefined : pinByLabel(board, label)?.chip
    return how && pin !== undefined ? [{ pin, settleMs: how.settleMs }] : []
  })
  return rails.length > 0 ? { rails } : {}
}

/** Which of its readings is the voltage of what feeds it. */
function supplyIn(design: Design, catalog: Catalog): { supply?: string } {
  const found = inOrder(design.signals).find(
    ({ value: s }) => s.of === null && channelOf(design, catalog, s)?.quantity === 'supply',
  )
  return found ? { supply: found.value.slug } : {}
}

type Fields = Record<string, unknown>

/** Every signal as the board runs it, and of the others why they cannot be written. */
function compiledSignals(design: Design, board: Board, catalog: Catalog): { signals: Fields[]; unwritten: string[] } {
  const compiled = inOrder(design.signals).map(({ value: signal }): Fields | string => {
    const part = design.parts[signal.partId]
    const kind = part && catalog.parts[part.kind]
    const channel = channelOf(design, catalog, signal)
    if (!part || !kind || !channel) return `${signal.tag}: its part is not on the shelf`
    const missing = channel.lines
      .filter((t) => terminalPin(design, signal.partId, kind, t, catalog) === undefined)
      .map((t) => kind.terminals.find((x) => x.id === t)?.label ?? t)
    if (missing.length > 0) return `${signal.tag}: ${missing.join(', ')} of ${part.label} has no pin`
    const fields = compileSignal({ design, board, catalog, kind, channel, signal })
    return typeof fields === 'string' ? `${signal.tag}: ${fields}` : fields
  })
  return {
    signals: compiled.filter((c) => typeof c !== 'string'),
    unwritten: compiled.filter((c) => typeof c === 'string'),
  }
}

/** Rules that wait for what this node does not hear, or for what is never said. */
function whyNotHeard(design: Design, { told }: Surroundings, board: Board): string[] {
  return byId(design.rules).flatMap(({ value: { from, when, to } }) => {
    if (!airSourceOf(from)) return []
    const rule = `the rule for ${design.signals[to]?.tag ?? to}`
    const source = told[from]
    if (!carriesSenders(board))
      return [
        `${rule} waits for a sender, and this board has no memory to understand one: drop it, or take another board`,
      ]
    if (!source)
      return [
        `${rule} waits for a sender this node does not carry: let the node carry it at Air, or drop the rule at Program`,
      ]
    const word = momentOf(when)
    const says = word === null ? source.words === null : source.words?.includes(word)
    const words = source.words?.join(', ') ?? 'on, off or unknown'
    return says ? [] : [`${rule} waits for what ${source.topic} never says: it says ${words}`]
  })
}

function whyNotAsleep({ sleep }: Design, { wake }: Board): string[] {
  if (!sleep) return []
  const untimed = `it cannot sleep: nothing on this board ends its sleep by time. ${wake.note}`
  const tooLong = `it cannot sleep for ${sleep.everyS} s: this chip counts ${wake.longestS} s at most`
  return [
    ...(wake.timer ? [] : [untimed]),
    ...(wake.longestS !== null && sleep.everyS > wake.longestS ? [tooLong] : []),
  ]
}

function whyNotSecure({ network }: Design, board: Board, broker: BrokerAddress): string[] {
  if (!network.secure) return []
  return [
    ...(broker.secure
      ? []
      : [
          'it is to reach the broker through TLS, and the broker has no certificate: give it one, or let the node come in plainly',
        ]),
    ...(board.interpreter.tls === null
      ? ['it is to reach the broker through TLS, and this board has no memory for that']
      : []),
  ]
}

export interface Package {
  id: string
  revision: number
  hash: string
  text: string
  td: ThingDescription
}

/**
 * The same in pieces of `eachB` bytes for `config/set`, each behind a line that says which it is, of how many, and the
 * SHA-256 of the whole.
 */
export function packagePieces(id: string, whole: Uint8Array, eachB: number): Uint8Array[] {
  const of = Math.max(1, Math.ceil(whole.length / eachB))
  const hash = sha256Hex(whole)
  return Array.from({ length: of }, (_, n) => {
    const head = new TextEncoder().encode(`${canonicalJson({ id, n, of, hash })}\n`)
    const data = whole.subarray(n * eachB, (n + 1) * eachB)
    const piece = new Uint8Array(head.length + data.length)
    piece.set(head)
    piece.set(data, head.length)
    return piece
  })
}

/** What is sent on `config/set`: three lines of JSON — header, node file verbatim, description verbatim. */
export function packageText({ id, revision, hash, text, td }: Package): string {
  return [canonicalJson({ id, revision, hash }), text, canonicalJson(td)].join('\n')
}
