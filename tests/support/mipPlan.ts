import type { Board, BoardPin } from '../../src/core/catalog/board'
import type { Design } from '../../src/core/model/design'
import { planLines, type PlanLine } from '../../src/core/lines/lines'
import type { Catalog } from '../../src/core/catalog/catalog'

/**
 * The pin plan as a mixed-integer program, written from the rules in words (docs/decisions/pin-plan.md) and not from
 * the planner: a second opinion on what is allowed, what it costs and what the least cost is. Text in CPLEX LP form,
 * null where a number of controllers, channels or frequencies is exceeded whatever the pins.
 */
export function mipPlan(design: Design, catalog: Catalog): string | null {
  const board = catalog.boards[design.board.id]
  if (!board) throw new Error('no board')
  const pins = board.positions.filter((p): p is BoardPin => p.kind === 'pin')
  const lines = planLines(design, catalog)
  if (tooMany(board, lines)) return null
  const objective: string[] = []
  const rows: string[] = []
  const binaries = new Set<string>()
  const x = (l: number, p: number) => `x${l}_${p}`
  lines.forEach((line, l) => {
    const mine: string[] = []
    pins.forEach((pin, p) => {
      const lock = design.locks[line.key]
      const asked = lock === undefined ? !design.keptFree[pin.label] : lock === pin.label
      const cost = asked ? costOf(board, pin, line) : null
      if (cost === null) return
      const before = design.plan.pins[line.key]
      const moved = before !== undefined && before !== pin.label ? 10_000 : 0
      mine.push(x(l, p))
      binaries.add(x(l, p))
      if (cost + moved > 0) objective.push(`${cost + moved} ${x(l, p)}`)
    })
    rows.push(mine.length > 0 ? `${mine.join(' + ')} = 1` : 'dummy >= 1')
  })
  const has = (l: number, p: number) => binaries.has(x(l, p))
  const some = (ls: number[], ps: number[]) => ls.flatMap((l) => ps.flatMap((p) => (has(l, p) ? [x(l, p)] : [])))
  const all = lines.map((_, l) => l)
  pins.forEach((_, p) => {
    const there = some(all, [p])
    if (there.length > 1) rows.push(`${there.join(' + ')} <= 1`)
  })
  tieBuses(board, pins, lines, rows, binaries, x, has)
  tiePulses(board, pins, lines, rows, binaries, x, has)
  for (const a of all) {
    for (const b of all) {
      if (b <= a || !sideBySideWanted(lines[a], lines[b])) continue
      const [e, n] = [`e${a}_${b}`, `n${a}_${b}`]
      const wide =
        bare(lines[a] as PlanLine) && (lines[a]?.kind.terminals.filter((t) => t.role === 'line').length ?? 0) > 4
      objective.push(`1 ${e}`)
      binaries.add(e)
      const left = pins.flatMap((p, i) => (p.side === 'left' ? [i] : []))
      const [la, lb] = [some([a], left), some([b], left)]
      rows.push(
        `${[e, ...la.map((v) => `- ${v}`), ...lb.map((v) => `+ ${v}`)].join(' ')} >= 0`,
        `${[e, ...lb.map((v) => `- ${v}`), ...la.map((v) => `+ ${v}`)].join(' ')} >= 0`,
      )
      if (wide) continue
      objective.push(`1 ${n}`)
      binaries.add(n)
      pins.forEach((pin, p) => {
        if (!has(a, p)) return
        const near = some(
          [b],
          pins.flatMap((q, i) => (q.side === pin.side && Math.abs(q.position - pin.position) === 1 ? [i] : [])),
        )
        rows.push(`${n} - ${x(a, p)} ${near.map((v) => `+ ${v}`).join(' ')} >= 0`)
      })
    }
  }
  return `Minimize\n obj: ${objective.join(' + ') || '0 dummy'}\nSubject To\n${rows.map((r, i) => ` c${i}: ${r}`).join('\n')}\nBounds\n dummy <= 0\n 0 <= dummy\nBinary\n ${[...binaries].join(' ')}\nEnd\n`
}

const bare = (line: PlanLine) => line.key.startsWith(`${line.partId}.`)

function sideBySideWanted(x: PlanLine | undefined, y: PlanLine | undefined): boolean {
  if (!x || !y || bare(x) !== bare(y)) return false
  if (!bare(x))
    return x.bus?.id === y.bus?.id && (x.bus?.kind === 'i2c' || (x.bus?.role !== 'sck') !== (y.bus?.role !== 'sck'))
  const order = x.kind.terminals.flatMap((t) => (t.role === 'line' ? [t.id] : []))
  return x.partId === y.partId && Math.abs(order.indexOf(x.terminal.id) - order.indexOf(y.terminal.id)) === 1
}

function tooMany(board: Board, lines: PlanLine[]): boolean {
  const per = board.peripherals
  const buses = (kind: string) =>
    new Set(lines.filter((l) => l.bus?.kind === kind && l.bus.role !== 'cs').map((l) => l.bus?.id)).size
  if (per.i2c.routing !== 'software' && buses('i2c') > per.i2c.count) return true
  if (per.spi.routing !== 'software' && buses('spi') > per.spi.count) return true
  if (buses('uart') > per.uart.count - (per.uart.console ? 1 : 0)) return true
  const pulses = lines.filter((l) => l.terminal.needs === 'pwm')
  if (pulses.length > per.pwm.channels) return true
  if (per.pwm.routing !== 'fixed' && new Set(pulses.map((l) => l.terminal.pwmHz)).size > per.pwm.timers) return true
  const waking = lines.filter((l) => l.wakes)
  return (
    board.wake.pins === 'one, or any high' &&
    waking.length > 1 &&
    waking.some((l) => l.channels.some((c) => c.access !== 'reading' && c.activeLevel === 'low'))
  )
}

type X = (l: number, p: number) => string
type Has = (l: number, p: number) => boolean

/** Each bus has one controller, each controller one bus; the console keeps the first serial one. */
function tieBuses(
  board: Board,
  pins: BoardPin[],
  lines: PlanLine[],
  rows: string[],
  binaries: Set<string>,
  x: X,
  has: Has,
): void {
  for (const kind of ['i2c', 'spi', 'uart'] as const) {
    if (board.peripherals[kind].routing !== 'fixed') continue
    const controllers = [
      ...new Set(pins.flatMap((p) => p.mux.filter((m) => m.bus === kind).map((m) => m.controller))),
    ].filter((c) => !(kind === 'uart' && board.peripherals.uart.console && c === 0))
    const ids = [...new Set(lines.flatMap((l) => (l.bus?.kind === kind && l.bus.role !== 'cs' ? [l.bus.id] : [])))]
    const z = (i: number, c: number) => `z${kind}_${i}_${c}`
    ids.forEach((_, i) => {
      controllers.forEach((c) => binaries.add(z(i, c)))
      rows.push(controllers.length > 0 ? `${controllers.map((c) => z(i, c)).join(' + ')} = 1` : 'dummy >= 1')
    })
    if (ids.length > 1) for (const c of controllers) rows.push(`${ids.map((_, i) => z(i, c)).join(' + ')} <= 1`)
    lines.forEach((line, l) => {
      if (line.bus?.kind !== kind || line.bus.role === 'cs') return
      pins.forEach((pin, p) => {
        if (!has(l, p)) return
        const can = pin.mux
          .filter((m) => m.bus === kind && m.role === line.bus?.role && controllers.includes(m.controller))
          .map((m) => z(ids.indexOf(line.bus?.id ?? ''), m.controller))
        rows.push(`${x(l, p)} ${can.map((v) => `- ${v}`).join(' ')} <= 0`)
      })
    })
  }
}

/** One output channel carries one signal; one slice has one frequency. */
function tiePulses(
  board: Board,
  pins: BoardPin[],
  lines: PlanLine[],
  rows: string[],
  binaries: Set<string>,
  x: X,
  has: Has,
): void {
  if (board.peripherals.pwm.routing !== 'fixed') return
  const pulses = lines.flatMap((l, i) => (l.terminal.needs === 'pwm' ? [i] : []))
  if (pulses.length < 2) return
  const frequencies = [...new Set(pulses.map((l) => lines[l]?.terminal.pwmHz ?? 0))]
  const at = (keep: (p: BoardPin) => boolean, ls = pulses) =>
    ls.flatMap((l) => pins.flatMap((p, i) => (keep(p) && has(l, i) ? [x(l, i)] : [])))
  for (const slice of new Set(pins.flatMap((p) => (p.pwm ? [p.pwm.slice] : [])))) {
    for (const channel of ['a', 'b']) {
      const there = at((p) => p.pwm?.slice === slice && p.pwm.channel === channel)
      if (there.length > 1) rows.push(`${there.join(' + ')} <= 1`)
    }
    if (frequencies.length < 2) continue
    const y = (f: number) => `y${slice}_${f}`
    frequencies.forEach((_, f) => binaries.add(y(f)))
    rows.push(`${frequencies.map((_, f) => y(f)).join(' + ')} <= 1`)
    frequencies.forEach((hz, f) => {
      for (const v of at(
        (p) => p.pwm?.slice === slice,
        pulses.filter((l) => lines[l]?.terminal.pwmHz === hz),
      ))
        rows.push(`${v} - ${y(f)} <= 0`)
    })
  }
}

/** Null where a hard rule forbids the pin; otherwise what the soft rules charge. */
function costOf(board: Board, pin: BoardPin, line: PlanLine): number | null {
  const t = line.terminal
  const can = (word: string) => (pin.functions as string[]).includes(word)
  const wifi = board.radios.includes('wifi')
  // What the pin must be able to do.
  if (t.needs === 'analog') {
    if (!can('adc1') && !(can('adc2') && !wifi)) return null
  } else {
    if (t.board !== 'drives' && !can('in')) return null
    if (t.board !== 'reads' && !can('out')) return null
    if (t.board === 'both' && t.output?.kind === 'open-drain' && !can('open-drain')) return null
    if (t.needs === 'pwm' && !can('pwm')) return null
    if (t.needs === 'edges' && !pin.interrupt) return null
    if (line.bus && line.bus.kind !== 'one-wire' && line.bus.role !== 'cs') {
      const { routing } = board.peripherals[line.bus.kind]
      if (routing === 'software' && !can('i2c')) return null
      if (routing === 'fixed' && !pin.mux.some((m) => m.bus === line.bus?.kind && m.role === line.bus.role)) return null
    }
  }
  // Sleep.
  if (line.sleeping && board.wake.tie?.from === pin.label) return null
  if (line.wakes && (!pin.wake || board.wake.pins === 'none')) return null
  // Every way the part can hold the line.
  const held = line.members.flatMap((m) => {
    const states = m.terminal.states.map((s) => ({ level: s.level, ohm: s.ohm }))
    const o = m.terminal.output
    const rail = o?.kind === 'push-pull' ? m.part.feeds[o.from] : undefined
    if (rail !== undefined && !board.rails.some((r) => r.id === rail)) states.push({ level: 'low', ohm: 1000 })
    return states
  })
  if (line.pulls.length > 0) held.push(...line.pulls)
  else
    held.push(
      ...line.members.flatMap((m) =>
        m.terminal.outsidePull ? [{ level: m.terminal.outsidePull.level, ohm: m.terminal.outsidePull.ohm }] : [],
      ),
    )
  for (const h of held) {
    if (
      h.ohm < 300 &&
      ((pin.startup === 'driven' && h.level !== 'open') ||
        (pin.startup === 'driven-high' && h.level === 'low') ||
        (pin.startup === 'driven-low' && h.level === 'high'))
    )
      return null
  }
  // What heats, moves or pumps stays at rest until the program runs.
  if (t.hazard) {
    const low = (t.rest?.level ?? 'low') === 'low'
    if (pin.startup === 'pulses' || pin.startup === 'driven') return null
    if (pin.startup === (low ? 'driven-high' : 'driven-low')) return null
    if (pin.startup !== 'driven-high' && pin.startup !== 'driven-low') {
      const resistors = [
        t.rest?.ownPullOhm,
        ...line.pulls.filter((p) => (p.level === 'low') === low).map((p) => p.ohm),
      ].filter((r): r is number => typeof r === 'number')
      const chipLow =
        pin.onBoard?.what === 'resistor'
          ? pin.onBoard.to === 'ground'
          : pin.startup === 'pulled-down'
            ? true
            : pin.startup === 'pulled-up'
              ? false
              : null
      const chipOhm =
        pin.onBoard?.what === 'resistor' ? pin.onBoard.ohm : chipLow ? board.pulls.downOhm : board.pulls.upOhm
      if (chipLow !== low) {
        if (resistors.length === 0) return null
        const together = 1 / resistors.reduce((sum, r) => sum + 1 / r, 0)
        if (chipLow !== null && together / (together + chipOhm) > board.input.lowRatio) return null
      }
    }
  }
  // Reset levels.
  if (pin.strap?.when === 'every start' && pin.strap.level !== 'any') {
    for (const h of held) {
      if (h.level === 'open' || h.level === pin.strap.level) continue
      const part = pin.strap.ohm / (pin.strap.ohm + h.ohm)
      if (pin.strap.level === 'high' ? 1 - part < board.input.highRatio : part > board.input.lowRatio) return null
    }
  }
  // What it costs.
  const says = (word: string) => pin.quirks.some((q) => q.word === word)
  const bus = line.bus?.kind
  let cost = 0
  if (t.board === 'drives' && ['pulses', 'driven', 'driven-high'].includes(pin.startup)) cost += 40
  if (t.board !== 'drives' && pin.startup === 'pulses') cost += 15
  if (says('USB')) cost += 36
  if (says('console')) cost += 30
  if (t.board === 'reads' && says('brief false lows')) cost += 7
  if (pin.strap) cost += pin.strap.when === 'writing by cable' ? 16 : 20
  if (t.pull && line.pulls.length === 0) {
    const boardPull = pin.onBoard?.what === 'resistor' ? (pin.onBoard.to === 'ground' ? 'down' : 'up') : null
    if (boardPull === null ? !pin.pulls.includes(t.pull) : boardPull !== t.pull) cost += 12
  }
  if (pin.onBoard?.what === 'lamp') cost += 8
  if (says('taken on larger modules')) cost += 6
  if (t.hazard && says('may glitch at start')) cost += 5
  if (line.sleeping && !line.wakes && pin.wake && board.positions.filter((p) => p.kind === 'pin' && p.wake).length <= 8)
    cost += 5
  if (can('dac')) cost += 4
  if (t.needs !== 'analog' && can('adc1') && can('out')) cost += 3
  if (t.needs !== 'analog' && t.board === 'reads' && can('out')) cost += 2
  const usual = bus === 'i2c' ? 'i2c-usual' : bus === 'spi' ? 'spi-usual' : null
  if (
    usual &&
    !can(usual) &&
    board.positions.some((p) => p.kind === 'pin' && (p.functions as string[]).includes(usual))
  )
    cost += 4
  if (usual !== 'i2c-usual' && can('i2c-usual')) cost += 1
  return cost
}
