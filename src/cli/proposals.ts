import { randomUUID } from 'node:crypto'
import fs from 'node:fs'
import { builtInCatalog } from '../core/catalog/catalog'
import { lastsWords } from '../core/energy/words'
import { designText } from '../core/model/readDesign'
import { slugFrom } from '../core/model/slug'
import { type Proposal, propose } from '../core/proposals/propose'
import { type Power, POWERS } from '../core/proposals/readWish'
import { mendable } from '../core/proposals/settled'

/** Whole nodes for a wish, as text or JSON; the first one as a design in a file. Throws what is wrong, in words. */
export function proposals(wish: string, file: string | undefined, options: { json: boolean; power?: string }): string {
  const power = powerOf(options.power)
  const proposed = propose({ text: wish, power, alone: true }, builtInCatalog)
  const [first] = proposed.proposals
  if (file !== undefined) {
    if (!first) throw new Error(`Nothing on the shelf answers to “${wish}”; ${file} is not written.`)
    const name = wish.slice(0, 60)
    fs.writeFileSync(file, designText({ ...first.design, id: randomUUID(), name, slug: slugFrom(name) }))
  }
  if (options.json) return JSON.stringify(proposed, null, 2)
  return [
    ...proposed.read.needs.map(({ need, count }) => `understood: ${need.asks}${count > 1 ? ` (${count})` : ''}`),
    ...proposed.notYet.map((words) => `not yet: ${words}`),
    ...proposed.proposals.map(proposalText),
    ...(file === undefined ? [] : [`${file} holds the first of them.`]),
  ].join('\n')
}

function powerOf(word: string | undefined): Power | null {
  if (word === undefined) return null
  const power = POWERS.find((p) => p === word)
  if (!power) throw new Error(`“${word}” is no way to feed a node; there are ${POWERS.join(', ')}.`)
  return power
}

function proposalText(p: Proposal, i: number): string {
  const left = mendable(p.findings)
  return [
    `\n${i + 1}  ${p.title}`,
    `   board   ${builtInCatalog.boards[p.board]?.name}`,
    `   power   ${p.power}`,
    `   price   ${p.price.used.toFixed(2)}, bought in packs ${p.price.total.toFixed(2)}`,
    ...(p.life
      ? [`   lasts   likely ${lastsWords(p.life.likely)}, from ${lastsWords(p.life.low)} to ${lastsWords(p.life.high)}`]
      : []),
    ...p.reasons.map((r) => `   +  ${r}`),
    ...p.costs.map((c) => `   −  ${c}`),
    ...left.map((f) => `   !  ${f.sentence}`),
  ].join('\n')
}
