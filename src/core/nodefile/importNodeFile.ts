import { type Board, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { terminalOf } from '../catalog/part'
import { applyEdit } from '../edits/apply'
import { type Change, changesBetween } from '../documents/changes'
import { byId, type Design, lineKeyOf } from '../model/design'
import type { EditBody } from '../edits/edit'
import { nearestWord, placeIn, type Problem, readDocument } from '../documents/readDocument'
import { canonicalJson } from '../hash/canonicalJson'
import { planKey } from '../lines/lines'
import { channelOf } from '../publish/channelOf'
import { type BrokerAddress } from '../publish/describe'
import { unitFactor, unitsFor } from '../units/convert'
import { placeIdFrom } from '../model/placeId'
import type { Surroundings } from '../surroundings/surroundings'
import { compile } from './compile'
import { pinsOfSignal } from '../drivers/driverForm'
import { conditioningBetween, conditioningPaths } from './conditionedFields'
import { type Trigger, triggerSchema } from '../model/behaviour'
import { guardWords, ruleWords } from './semanticDiff'
import { type LocalRule, type NodeFile, type NodeFileSignal, nodeFileSchema } from './nodeFile'

export type ImportResult =
  | { ok: true; design: Design; changes: Change[]; done: string[]; leftOut: Problem[] }
  | { ok: false; problems: Problem[] }

interface ImportEdit {
  path: (string | number)[]
  edit: EditBody
  words: string
}

/**
 * An edited node file taken back into the design it was compiled from. All of it or nothing: each problem has line and
 * column. What follows from parts, wiring or the shop cannot be said in a node file; it is listed as left out and stays
 * as the design has it.
 */
export function importNodeFile(
  text: string,
  design: Design,
  around: Surroundings,
  catalog: Catalog,
  broker: BrokerAddress,
): ImportResult {
  const read = readDocument(text, nodeFileSchema)
  if (!read.ok) return { ok: false, problems: read.problems }
  const file = read.value
  const compiled = compile(design, around, catalog, broker, file.revision)
  const board = catalog.boards[design.board.id]
  const at = placeIn(text)
  const problem = (
    path: (string | number)[],
    found: string,
    expected: string,
    nearest: string | null = null,
  ): Problem => ({ ...at(path), path: path.join(' › '), found, expected, nearest })
  if (!compiled.ok || !board)
    return {
      ok: false,
      problems: [
        problem(
          [],
          'a design that has no node file yet',
          compiled.ok ? 'a board on the shelf' : compiled.reasons.join('; '),
        ),
      ],
    }
  const own = compiled.compiled.file
  if (file.id !== own.id) return { ok: false, problems: [problem(['id'], `the file of another node`, own.id)] }
  if (file.board !== own.board)
    return { ok: false, problems: [problem(['board'], file.board, own.board, nearestWord(file.board, [own.board]))] }

  const wishes: ImportEdit[] = []
  const problems: Problem[] = []
  const leftOut: Problem[] = []
  const idOf = new Map<string, string>()
  for (const [i, signal] of file.signals.entries()) {
    const before = counterpart(own, signal)
    const id = Object.entries(design.signals).find(([, s]) => s.slug === before?.slug)?.[0]
    if (!before || id === undefined) {
      problems.push(
        problem(
          ['signals', i, 'slug'],
          `“${signal.slug}”, which the design does not have`,
          'one of its signals; a new one begins with its part, at Parts',
          nearestWord(
            signal.slug,
            own.signals.map((s) => s.slug),
          ),
        ),
      )
      continue
    }
    idOf.set(signal.slug, id)
    wishes.push(
      ...signalEdits({ design, catalog, board, id, before, after: signal, path: ['signals', i], problems, problem }),
    )
    leftOut.push(
      ...notExpressible(before, signal).map((path) =>
        problem(
          ['signals', i, ...path],
          'a change',
          'nothing to be said here: it follows from part, wiring or calibration record, and stays as the design has it',
        ),
      ),
    )
  }
  for (const b of own.signals) {
    if (file.signals.some((s) => counterpart(own, s)?.slug === b.slug)) continue
    const id = Object.entries(design.signals).find(([, s]) => s.slug === b.slug)?.[0]
    if (id !== undefined)
      wishes.push({
        path: ['signals'],
        edit: { kind: 'remove-signal', signalId: id },
        words: `${b.slug} is no longer told`,
      })
  }
  wishes.push(...nodeEdits(design, own, file))
  for (const [key, words] of Object.entries(NOT_HERE) as [keyof typeof NOT_HERE, string][])
    if (differs(own[key], file[key])) leftOut.push(problem([key], 'a change', words))
  const heard = Object.entries(around.told).map(([from, { topic }]) => [topic, from] as const)
  wishes.push(...behaviourEdits({ design, own, file }, new Map([...idOf, ...heard]), problems, problem))
  if (problems.length > 0) return { ok: false, problems }

  let next = design
  for (const { path, edit } of wishes) {
    const applied = applyEdit(next, edit, catalog)
    if (!applied.ok) return { ok: false, problems: [problem(path, applied.reason, applied.accepts)] }
    next = applied.design
  }
  return { ok: true, design: next, changes: changesBetween(design, next), done: wishes.map((w) => w.words), leftOut }
}

/** What a node file says of the shop, and why it is not changed from there. */
const NOT_HERE = {
  root: 'nothing to be said here',
  healthS: 'nothing to be said here',
  broker: 'nothing to be said here: the broker belongs to the shop’s settings',
  format: 'nothing to be said here',
}

/** Where a signal sits: at its pins, on the reading it is made of, or in what it says. */
function seat(s: NodeFileSignal): string {
  if (s.driver === 'transmitter') return canonicalJson(s.says)
  return canonicalJson('of' in s && s.driver === 'levels' ? s.of : pinsOfSignal(s))
}

/** The signal of the compiled file this one was: of the same name, else at the same place. */
function counterpart(own: NodeFile, signal: NodeFileSignal): NodeFileSignal | undefined {
  return (
    own.signals.find((s) => s.slug === signal.slug) ??
    own.signals.find((s) => s.driver === signal.driver && seat(s) === seat(signal))
  )
}

type Say = (path: (string | number)[], found: string, expected: string, nearest?: string | null) => Problem

/** A signal of the edited file beside the one it was, and where what is wrong with it is said. */
interface Pair {
  design: Design
  catalog: Catalog
  board: Board
  id: string
  before: NodeFileSignal
  after: NodeFileSignal
  path: (string | number)[]
  problems: Problem[]
  problem: Say
}

function signalEdits(pair: Pair): ImportEdit[] {
  const { design, catalog, id, before, after, path, problems, problem } = pair
  const signal = design.signals[id]
  const channel = signal && channelOf(design, catalog, signal)
  if (!signal || !channel) return []
  const renamed: ImportEdit = {
    path: [...path, 'slug'],
    edit: { kind: 'rename-signal', signalId: id, name: signal.name, slug: after.slug },
    words: `${before.slug} is called ${after.slug} on ${after.slug}`,
  }
  const named = after.slug === before.slug ? [] : [renamed]
  if (after.driver !== before.driver) {
    problems.push(
      problem([...path, 'driver'], after.driver, `${before.driver}: another part is chosen at Parts`, before.driver),
    )
    return named
  }
  const set = conditioningBetween(design, before.driver, before, after)
  const values = Object.entries(set).map(([k, v]) => `${k} ${JSON.stringify(v)}`)
  const conditioned: ImportEdit = {
    path,
    edit: { kind: 'condition', signalId: id, set },
    words: `${values.join(', ')} on ${after.slug}`,
  }
  return [...named, ...publishEdits(pair, channel.unit), ...(values.length > 0 ? [conditioned] : []), ...pinEdits(pair)]
}

type PublishSet = Extract<EditBody, { kind: 'publish' }>['set']

/** How a reading is published otherwise, and of any other signal how often at least. */
function publishEdits(pair: Pair, unit: string): ImportEdit[] {
  const { id, before, after, path } = pair
  const wish = (where: string[], set: PublishSet, words: string): ImportEdit[] => [
    { path: [...path, ...where], edit: { kind: 'publish', signalId: id, set }, words: `${words} on ${after.slug}` },
  ]
  if (before.access === 'reading' && after.access === 'reading') {
    const set = readingSet(before.publish, after.publish, unit, pair)
    const keys = Object.keys(set)
    return keys.length > 0 ? wish(['publish'], set, `published otherwise: ${keys.join(', ')}`) : []
  }
  if (!('publish' in before) || !('publish' in after) || before.publish.everyS === after.publish.everyS) return []
  const { everyS } = after.publish
  return wish(['publish', 'everyS'], { intervalS: everyS }, `at least every ${everyS} s`)
}

type ReadingPublish = Extract<NodeFileSignal, { access: 'reading' }>['publish']

function readingSet(b: ReadingPublish, a: ReadingPublish, from: string, { path, problems, problem }: Pair): PublishSet {
  const set: PublishSet = {}
  if (b.everyS !== a.everyS) set.intervalS = a.everyS
  if ((b.change ?? 0) !== (a.change ?? 0)) set.change = a.change ?? 0
  if ((b.decimals ?? 0) !== (a.decimals ?? 0)) set.decimals = a.decimals ?? 0
  const factor = a.factor ?? 1
  if ((b.factor ?? 1) === factor) return set
  const known = unitsFor(from).map((u) => ({ unit: u, factor: unitFactor(from, u) }))
  const found = known.find((k) => k.factor === factor)
  if (found) return { ...set, unit: found.unit }
  const accepts = known.map((k) => `${k.factor} (${k.unit})`).join(', ')
  problems.push(problem([...path, 'publish', 'factor'], String(factor), `one of ${accepts}`))
  return set
}

/** A pin in the file is the chip's number; in the design it becomes a lock, if the line may have it. */
function pinEdits({ design, catalog, board, id, before, after, path, problems, problem }: Pair): ImportEdit[] {
  const out: ImportEdit[] = []
  const signal = design.signals[id]
  const part = signal && design.parts[signal.partId]
  const kind = part && catalog.parts[part.kind]
  const channel = signal && channelOf(design, catalog, signal)
  if (!signal || !part || !kind || !channel) return out
  const [b, a] = [pinsOfSignal(before), pinsOfSignal(after)]
  for (const [role, number] of Object.entries(a)) {
    if (b[role] === number) continue
    const pin = pinsOf(board).find((p) => p.chip === number)
    const place = [...path, 'pins', role]
    if (!pin) {
      problems.push(
        problem(
          place,
          `pin ${number}, which this board does not have`,
          `one of ${pinsOf(board)
            .map((p) => p.chip)
            .sort((x, y) => x - y)
            .join(', ')}`,
        ),
      )
      continue
    }
    // The line of this signal that has the old pin now.
    const line = channel.lines
      .map((t) => terminalOf(kind, t))
      .flatMap((t) => {
        const key = t?.role === 'line' ? (planKey(signal.partId, part, t) ?? lineKeyOf(signal.partId, t.id)) : null
        return key !== null && pinsOf(board).find((p) => p.label === design.plan.pins[key])?.chip === b[role]
          ? [key]
          : []
      })[0]
    if (line === undefined)
      problems.push(
        problem(place, `pin ${number}`, `${b[role] ?? 'nothing'}: this pin does not belong to a line of its own`),
      )
    else
      out.push({
        path: place,
        edit: { kind: 'lock', line, pin: pin.label },
        words: `${role.toUpperCase()} on ${pin.label} (${number}) on ${after.slug}`,
      })
  }
  return out
}

/** What an edited file can say: conditioning, and what the design has of its own. */
const EXPRESSIBLE = new Set(['slug', 'access', 'driver', 'pins', ...conditioningPaths])
/** Groups whose fields are looked at one by one; of others the whole counts. */
const expressible = (path: string): boolean =>
  EXPRESSIBLE.has(path) || path.startsWith('publish') || path.startsWith('presses')

function notExpressible(before: NodeFileSignal, after: NodeFileSignal): string[][] {
  const [b, a] = [before as Record<string, unknown>, after as Record<string, unknown>]
  const chain = (s: Record<string, unknown>) => (s.chain ?? {}) as Record<string, unknown>
  const keys = [...new Set([...Object.keys(b), ...Object.keys(a)])].filter((k) => k !== 'chain')
  const inChain = [...new Set([...Object.keys(chain(b)), ...Object.keys(chain(a))])]
  return [
    ...keys.filter((k) => !expressible(k) && differs(b[k], a[k])).map((k) => [k]),
    ...inChain.filter((k) => !expressible(`chain.${k}`) && differs(chain(b)[k], chain(a)[k])).map((k) => ['chain', k]),
  ]
}

const differs = (a: unknown, b: unknown) => canonicalJson(a ?? null) !== canonicalJson(b ?? null)

function nodeEdits(design: Design, own: NodeFile, file: NodeFile): ImportEdit[] {
  return [...identityEdits(design, own, file), ...sleepEdits(own, file), ...networkEdits(design, own, file)]
}

function identityEdits(design: Design, own: NodeFile, file: NodeFile): ImportEdit[] {
  const [name, area, ownArea] = [file.name ?? design.name, file.area ?? '', own.area ?? '']
  if (file.node === own.node && name === design.name && area === ownArea) return []
  const place = area === ownArea ? design.place : placeIdFrom(area)
  return [
    {
      path: ['node'],
      edit: { kind: 'identify', name, slug: file.node, place },
      words: `the node is ${name} (${file.node})${area ? `, ${area}` : ''}`,
    },
  ]
}

function sleepEdits(own: NodeFile, { sleep }: NodeFile): ImportEdit[] {
  if (!differs(sleep, own.sleep)) return []
  if (!sleep) return [{ path: ['sleep'], edit: { kind: 'sleep', everyS: null }, words: 'does not sleep' }]
  const { everyS, listenS } = sleep
  return [
    {
      path: ['sleep'],
      edit: { kind: 'sleep', everyS, listenS },
      words: `wakes every ${everyS} s, listens ${listenS} s`,
    },
  ]
}

function networkEdits({ network }: Design, own: NodeFile, file: NodeFile): ImportEdit[] {
  const { keepAliveS } = file.broker
  const alike = file.network === own.network && keepAliveS === own.broker.keepAliveS && file.quiet === own.quiet
  if (alike && !differs(file.address, own.address)) return []
  const freed = network.address === 'fixed' ? 'lease' : network.address
  const address = file.address ? 'fixed' : freed
  return [
    {
      path: ['network'],
      edit: { kind: 'connect', ref: file.network, address, fixed: file.address ?? null, keepAliveS, quiet: file.quiet },
      words: `network ${file.network}${file.address ? `, address ${file.address.ip}` : ''}${file.quiet ? ', quiet on its console' : ''}`,
    },
  ]
}

/** A word that is none of a key's or a knob's is a sender's. */
function whenIn(when: LocalRule['when']): Trigger {
  const own = triggerSchema.safeParse(when)
  return own.success ? own.data : { says: String(when) }
}

function behaviourEdits(
  { design, own, file }: { design: Design; own: NodeFile; file: NodeFile },
  idOf: Map<string, string>,
  problems: Problem[],
  problem: Say,
): ImportEdit[] {
  const out: ImportEdit[] = []
  const known = (path: (string | number)[], slug: string): string => {
    const id = idOf.get(slug)
    if (id === undefined)
      problems.push(problem(path, `“${slug}”`, 'a signal of this file', nearestWord(slug, [...idOf.keys()])))
    return id ?? ''
  }
  let n = 0
  const fresh = (taken: Record<string, unknown>) => {
    for (;;) {
      const id = `f${++n}`
      if (!(id in taken)) return id
    }
  }
  const texts = (list: readonly unknown[] | undefined) => (list ?? []).map(canonicalJson)
  // Compiled guards and rules stand in the order of the design's.
  const goneOf = (ownList: readonly unknown[] | undefined, fileList: readonly unknown[] | undefined, ids: string[]) => {
    const left = texts(fileList)
    return texts(ownList).flatMap((t, i) => {
      const at = left.indexOf(t)
      if (at >= 0) left.splice(at, 1)
      return at < 0 ? [ids[i] ?? ''] : []
    })
  }
  for (const guardId of goneOf(
    own.guards,
    file.guards,
    byId(design.guards).map((g) => g.id),
  ))
    out.push({ path: ['guards'], edit: { kind: 'set-guard', guardId, guard: null }, words: 'a guard is gone' })
  for (const ruleId of goneOf(
    own.rules,
    file.rules,
    byId(design.rules).map((r) => r.id),
  ))
    out.push({ path: ['rules'], edit: { kind: 'set-rule', ruleId, rule: null }, words: 'a local rule is gone' })
  const [haveGuards, haveRules] = [texts(own.guards), texts(own.rules)]
  for (const [i, g] of (file.guards ?? []).entries()) {
    if (haveGuards.includes(canonicalJson(g))) continue
    const guard =
      g.kind === 'needs'
        ? {
            kind: g.kind,
            output: known(['guards', i, 'output'], g.output),
            input: known(['guards', i, 'input'], g.input),
            is: g.is,
          }
        : { kind: g.kind, of: g.of.map((s, k) => known(['guards', i, 'of', k], s)) }
    out.push({
      path: ['guards', i],
      edit: { kind: 'set-guard', guardId: fresh(design.guards), guard },
      words: guardWords(g),
    })
  }
  for (const [i, r] of (file.rules ?? []).entries()) {
    if (haveRules.includes(canonicalJson(r))) continue
    out.push({
      path: ['rules', i],
      edit: {
        kind: 'set-rule',
        ruleId: fresh(design.rules),
        rule: {
          from: known(['rules', i, 'from'], r.from),
          when: whenIn(r.when),
          // How long makes it gone follows from how often it is said.
          forS: r.when === 'gone' ? 0 : (r.forS ?? 0),
          to: known(['rules', i, 'to'], r.to),
          do: r.do,
          works: r.works ?? 'always',
        },
      },
      words: ruleWords(r),
    })
  }
  return out
}
