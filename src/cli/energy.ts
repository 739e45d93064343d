import type { Catalog } from '../core/catalog/catalog'
import { lastsWords } from '../core/energy/words'
import { cycleOf } from '../core/energy/cycle'
import { drawLife } from '../core/energy/draws'
import { levers } from '../core/energy/levers'
import { likelyOf, meanA, phaseCharges, swings, threePoint } from '../core/energy/life'
import { inService, type InService } from '../core/energy/inService'
import { readSupply } from '../core/energy/readSupply'
import type { Design } from '../core/model/design'

/** How long a design lasts on its cell, as JSON from which it can be reckoned again, and as text. */
export function energy({ design, catalog, supply }: { design: Design; catalog: Catalog; supply?: string }): {
  exit: 0 | 1
  json: unknown
  text: string
} {
  const board = catalog.boards[design.board.id]
  const cycle = board && cycleOf(design, board, catalog)
  if (!cycle) {
    const words = 'No cell feeds the board of this node: it does not run out.'
    return { exit: 0, json: { cell: null, words }, text: words }
  }
  const x = likelyOf(cycle)
  const phases = phaseCharges(cycle)
  const three = threePoint(cycle)
  const drawn = drawLife(cycle)
  let n = 0
  const changes = levers(design, catalog, () => `new${(n++).toString(36)}`)
  const served = supply === undefined ? null : inService(readSupply(supply).points, cycle)
  const json = {
    inService: served,
    cell: { part: cycle.cell.part.label, kind: cycle.cell.kind.id, capacityAh: cycle.cell.capacityAh },
    periodS: cycle.periodS(x),
    phases: phases.map((p) => ({ id: p.id, s: p.s, a: p.a, mAh: p.mAh })),
    meanA: meanA(cycle, x),
    selfA: cycle.selfA(x),
    usableAh: cycle.usableAh(x),
    lifeH: three,
    drawnH: drawn,
    inputs: cycle.inputs,
    from: swings(cycle),
    levers: changes.map(({ edits: _, ...l }) => l),
  }
  const text = [
    `lasts ${lastsWords(drawn.p10)} to ${lastsWords(drawn.p90)}, half of such nodes longer than ${lastsWords(drawn.p50)} (${drawn.draws} draws; every input at its worst ${lastsWords(three.low)}, at its best ${lastsWords(three.high)})`,
    ...phases.map(
      (p) =>
        `  ${p.words.padEnd(20)} ${`${p.s.likely.toPrecision(3)} s`.padStart(9)} ${`${(p.a.likely * 1000).toPrecision(3)} mA`.padStart(11)}  ${Math.round(p.share * 100)} %`,
    ),
    `most of the range comes from: ${json.from
      .slice(0, 3)
      .map((s) => `${s.words} (${Math.round(s.share * 100)} %)`)
      .join(', ')}`,
    ...(supply === undefined ? [] : [servedWords(served)]),
    ...changes.map(
      (l) => `  ${l.gainH < 0 ? '−' : '+'} ${lastsWords(Math.abs(l.gainH)).padEnd(10)} ${l.words}: ${l.note}`,
    ),
  ].join('\n')
  return { exit: 0, json, text }
}

function servedWords(served: InService | null): string {
  if (!served) return 'in service: too little to tell; five readings or more over two days, between full and empty'
  const day = (at: number) => new Date(at * 1000).toISOString().slice(0, 10)
  const when = served.emptyS ? `; empty between ${day(served.emptyS.from)} and ${day(served.emptyS.to)}` : ''
  const mA = (a: number) => `${(a * 1000).toPrecision(3)} mA`
  return `in service: drains ${mA(served.drainA)} ± ${mA(served.errorA)}, designed ${mA(served.designedA)}, ${Math.round(served.left * 100)} % left${when}${served.whys.map((w) => `\n  ${w}`).join('')}`
}
