import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { PATTERNS } from '../../model/behaviour'
import { type Design, idSchema, ruleSchema } from '../../model/design'
import { channelOfId } from '../channelOfId'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { refuse, type Step } from '../step'
import { triggerFits, triggerWords } from '../triggerFits'

const schema = z.strictObject({ kind: z.literal('set-rule'), ruleId: idSchema, rule: ruleSchema.nullable() })
type Edit = z.infer<typeof schema>

/** What an input does to an output of the same node; null drops it. */
export const setRule = designEdit({
  schema,
  touches: ['rules', 'signals'],
  apply: ruleSet,
  words: (edit, design) =>
    edit.rule === null
      ? 'drop a local rule'
      : `${tagOf(design, edit.rule.from)} acts on ${tagOf(design, edit.rule.to)}${edit.rule.works === 'always' ? '' : `, ${edit.rule.works}`}`,
})

function ruleSet(design: Design, edit: Edit, catalog: Catalog): Step {
  const { [edit.ruleId]: known, ...others } = design.rules
  if (edit.rule === null)
    return known ? { ...design, rules: others } : refuse('this rule is no longer in the design', 'one that is')
  const { from, to, when } = edit.rule
  const source = channelOfId(design, catalog, from)
  const target = channelOfId(design, catalog, to)
  if (!source || !target) return refuse('a rule needs an input and an output of this node', 'signals of this node')
  if (target.access !== 'output')
    return refuse(`${design.signals[to]?.tag ?? to} is no output`, 'an output of this node')
  if (target.value === 'text')
    return refuse(
      `${design.signals[to]?.tag ?? to} shows a text: there is nothing to switch`,
      'an output that is on or off, a percentage or a colour',
    )
  if (!triggerFits(source, when))
    return refuse(`${design.signals[from]?.tag ?? from} never does that`, triggerWords(source))
  if (edit.rule.do === 'toggle' && target.value === 'colour')
    return refuse('this output cannot be toggled', 'true, false or a number')
  if (typeof edit.rule.do === 'number' && target.value !== 'percent')
    return refuse('this output takes no number', 'on, off or toggle')
  const pattern = typeof when === 'string' ? PATTERNS.find((p) => p === when) : undefined
  const signal = design.signals[from]
  // A press a rule waits for must be told at all.
  const signals =
    pattern && signal && !signal.conditioning.patterns.includes(pattern)
      ? {
          ...design.signals,
          [from]: {
            ...signal,
            conditioning: {
              ...signal.conditioning,
              patterns: PATTERNS.filter((p) => p === pattern || signal.conditioning.patterns.includes(p)),
            },
          },
        }
      : design.signals
  return { ...design, signals, rules: { ...design.rules, [edit.ruleId]: edit.rule } }
}
