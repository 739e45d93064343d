import type { Catalog } from '../catalog/catalog'
import type { Design } from '../design/design'
import { checkContext, type Rule } from './context'
import { type Finding, SEVERITIES } from './finding'
import { addressClash } from './rules/address-clash'
import { caution } from './rules/caution'
import { inputOverMaximum } from './rules/input-over-maximum'
import { ladderGap } from './rules/ladder-gap'
import { lineWithoutPin } from './rules/line-without-pin'
import { notCalibrated } from './rules/not-calibrated'
import { outsidePullMissing } from './rules/outside-pull-missing'

/** Every rule there is. */
export const RULES: readonly Rule[] = [lineWithoutPin, inputOverMaximum, outsidePullMissing, addressClash, ladderGap, caution, notCalibrated]

/** All findings of a design, gravest first, in a fixed order. Never throws on an unfinished design. */
export function runChecks(design: Design, catalog: Catalog): Finding[] {
  const context = checkContext(design, catalog)
  if (!context) return []
  return RULES.flatMap((rule) => rule.check(context))
    .sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity))
}
