import type { Catalog } from '../catalog/catalog'
import type { Finding, Remedy } from '../checks/finding'
import { runChecks } from '../checks/runChecks'
import { applyAll } from '../alternatives/remedies'
import type { EditBody } from '../edits/edit'
import type { Design } from '../model/design'
import { type Draft, tryEdit } from './buildWay'

/** What a remedy may do by itself; what gives up a wish or takes a part away is left to the person. */
const BY_ITSELF: readonly EditBody['kind'][] = [
  'add-component',
  'feed',
  'feed-board',
  'set-bus',
  'condition',
  'accept-plan',
  'set-wire',
  'connect',
]

/** A larger supply takes nothing away either. */
const harmless = (e: EditBody): boolean =>
  BY_ITSELF.includes(e.kind) || (e.kind === 'set-part' && e.setting === 'gives')

const MOST_ROUNDS = 40

/** What stands that a person could do something about: without cautions and without what is only tuned on site. */
export const mendable = (findings: readonly Finding[]): Finding[] =>
  findings.filter((f) => f.severity !== 'note' && f.caution === null)

/** Without what these ask for the node's file cannot be written at all: that is worse than what mending it may bring. */
const UNWRITTEN = ['outside-pull-missing']

const badness = (findings: readonly Finding[]): number => mendable(findings).reduce((sum, f) => sum + weightOf(f), 0)

function weightOf({ severity, rule }: Finding): number {
  if (severity === 'stop') return 1000
  return UNWRITTEN.includes(rule) ? 10 : 1
}

/** Applies remedies as long as each leaves less mendable than before; returns what then stands. */
export function settle(draft: Draft, catalog: Catalog): Finding[] {
  let findings = runChecks(draft.design, catalog)
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const better = firstBetter(draft.design, findings, catalog)
    if (!better) break
    for (const edit of better.edits) tryEdit(draft, edit, catalog)
    findings = runChecks(draft.design, catalog)
  }
  return findings
}

function firstBetter(design: Design, findings: readonly Finding[], catalog: Catalog): Remedy | null {
  const before = badness(findings)
  for (const finding of mendable(findings)) {
    for (const remedy of finding.remedies) {
      if (!remedy.edits.every(harmless)) continue
      const after = applyAll(design, remedy.edits, catalog)
      if (after && badness(runChecks(after, catalog)) < before) return remedy
    }
  }
  return null
}
