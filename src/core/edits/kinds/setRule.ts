import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { isMoment, PATTERNS, type Trigger } from '../../model/behaviour'
import { airSourceOf } from '../../model/airSource'
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
      : `${airSourceOf(edit.rule.from) ? 'a sender' : tagOf(design, edit.rule.from)} acts on ${tagOf(design, edit.rule.to)}${edit.rule.works === 'always' ? '' : `, ${edit.rule.works}`}`,
})

function ruleSet(design: Design, edit: Edit, catalog: Catalog): Step {
  const { [edit.ruleId]: known, ...others } = design.rules
  if (edit.rule === null)
    return known ? { ...design, rules: others } : refuse('this rule is no longer in the design', 'one that is')
  const why = whyNot(design, edit.rule, catalog)
  if (why) return why
  const { from, when } = edit.rule
  const rules = { ...design.rules, [edit.ruleId]: edit.rule }
  return { ...design, signals: telling(design.signals, from, when), rules }
}

function whyNot(design: Design, rule: NonNullable<Edit['rule']>, catalog: Catalog): Step | null {
  const air = airSourceOf(rule.from)
  const source = air ? null : channelOfId(design, catalog, rule.from)
  const target = channelOfId(design, catalog, rule.to)
  const tag = (id: string) => design.signals[id]?.tag ?? id
  if (source === undefined || !target)
    return refuse('a rule needs an input and an output of this node', 'signals of this node')
  if (target.access !== 'output') return refuse(`${tag(rule.to)} is no output`, 'an output of this node')
  if (target.value === 'text')
    return refuse(
      `${tag(rule.to)} shows a text: there is nothing to switch`,
      'an output that is on or off, a percentage or a colour',
    )
  // What a sender says stands in the shop: whether it ever says that is asked when the file is written.
  if (source === null ? !sayable(rule.when) : !triggerFits(source, rule.when))
    return refuse(
      `${source ? tag(rule.from) : 'a sender'} never does that`,
      source ? triggerWords(source) : 'a word it says, true, false or unknown',
    )
  if (rule.forS > 0 && (isMoment(rule.when) || rule.when === 'gone'))
    return refuse(
      rule.when === 'gone' ? 'how long makes it gone follows from how often it is said' : 'a press does not last',
      'no time, or another trigger',
    )
  if (rule.do === 'toggle' && target.value === 'colour')
    return refuse('this output cannot be toggled', 'true, false or a number')
  return typeof rule.do === 'number' && target.value !== 'percent'
    ? refuse('this output takes no number', 'on, off or toggle')
    : null
}

/** What something that is heard on the air can do: say a word, be so, or be unknown. */
const sayable = (when: Trigger): boolean =>
  when === null || typeof when === 'boolean' || (typeof when === 'object' && 'says' in when)

/** A press a rule waits for must be told at all. */
function telling(signals: Design['signals'], from: string, when: Trigger): Design['signals'] {
  const pattern = PATTERNS.find((p) => p === when)
  const signal = signals[from]
  if (!pattern || !signal || signal.conditioning.patterns.includes(pattern)) return signals
  const patterns = PATTERNS.filter((p) => p === pattern || signal.conditioning.patterns.includes(p))
  return { ...signals, [from]: { ...signal, conditioning: { ...signal.conditioning, patterns } } }
}
