import { Liquid } from 'liquidjs'
import type { Catalog } from '../catalog/catalog'
import { entitySheet, type SheetNode } from '../publish/entitySheet'
import { entityFields, nodeFields } from './fields'
import { LONGEST_TEXT, type Template } from '../model/template'

/** One message a template makes. `of`: the entity or node it speaks of. */
export interface Rendered {
  of: string
  nodeId: string
  topic: string
  payload: string
}

/** What is wrong with a template, where, and for which entity or node; '' for all. */
export interface TemplateFault {
  where: 'topic' | 'payload'
  of: string
  words: string
}

export interface RenderedAll {
  messages: Rendered[]
  faults: TemplateFault[]
}

/** A message larger than this is taken by few clients, bytes. */
const LONGEST_PAYLOAD = 16_384
const LONGEST_TOPIC = 300
/** For one rendering: characters parsed, ms, and what the library counts as memory. */
const LIMITS = { parseLimit: LONGEST_TEXT + 1, renderLimit: 50, memoryLimit: 200_000 }
/** Tags that would read other templates: there are none. */
const NO_TAGS = ['include', 'render', 'layout', 'block']

function engine(): Liquid {
  const liquid = new Liquid({
    templates: {},
    ownPropertyOnly: true,
    strictFilters: true,
    strictVariables: true,
    cache: false,
    ...LIMITS,
  })
  for (const tag of NO_TAGS) delete liquid.tags[tag]
  return liquid
}

/**
 * Every message of a template over these nodes; a template with one fault publishes nothing. Nothing is read but the
 * sheet, and each rendering ends within its limits.
 */
export function renderTemplate(
  template: Template,
  nodes: readonly SheetNode[],
  catalog: Catalog,
  root: string,
): RenderedAll {
  const liquid = engine()
  const parsed = { topic: parse(liquid, template.topic), payload: parse(liquid, template.payload) }
  const unread = (['topic', 'payload'] as const).flatMap((where): TemplateFault[] => {
    const part = parsed[where]
    return 'reason' in part ? [{ where, of: '', words: part.reason }] : []
  })
  if (unread.length > 0) return { messages: [], faults: unread }
  const messages: Rendered[] = []
  const faults: TemplateFault[] = []
  for (const { of, nodeId, scope } of scopes(template, nodes, catalog, root)) {
    const made = { of, nodeId, topic: '', payload: '' }
    for (const where of ['topic', 'payload'] as const) {
      const part = parsed[where]
      const text = 'reason' in part ? part : rendered(liquid, part, scope)
      if (typeof text === 'string') made[where] = where === 'topic' ? text.trim() : text
      else faults.push({ where, of, words: text.reason })
    }
    faults.push(...messageFaults(template, made, root))
    messages.push(made)
    if (faults.length >= 20) break
  }
  faults.push(...sameTopics(messages))
  return { messages: faults.length > 0 ? [] : messages, faults }
}

interface Scope {
  of: string
  nodeId: string
  scope: object
}

function scopes(template: Template, nodes: readonly SheetNode[], catalog: Catalog, root: string): Scope[] {
  return nodes.flatMap((node): Scope[] => {
    const rows = entitySheet([node], catalog, root).filter((r) => r.offered)
    const of = nodeFields(node, root)
    const entities = rows.map(entityFields)
    if (template.per === 'node')
      return rows.length === 0 ? [] : [{ of: of.name, nodeId: node.id, scope: { node: of, entities } }]
    return entities.map((entity) => ({ of: entity.full_name, nodeId: node.id, scope: { node: of, entity } }))
  })
}

type Parsed = ReturnType<Liquid['parse']> | { reason: string }

function parse(liquid: Liquid, text: string): Parsed {
  try {
    return liquid.parse(text)
  } catch (e) {
    return { reason: reasonOf(e) }
  }
}

function rendered(liquid: Liquid, part: ReturnType<Liquid['parse']>, scope: object): string | { reason: string } {
  try {
    return String(liquid.renderSync(part, scope))
  } catch (e) {
    return { reason: reasonOf(e) }
  }
}

/** What the library says, without the lines of context it adds. */
function reasonOf(e: unknown): string {
  const [first = ''] = (e instanceof Error ? e.message : String(e)).split('\n')
  if (first.includes('template render limit')) return `takes longer than ${LIMITS.renderLimit} ms`
  if (first.includes('memory alloc')) return 'needs more memory than a message may'
  return first
}

function messageFaults({ json }: Template, { of, topic, payload }: Rendered, root: string): TemplateFault[] {
  const out: TemplateFault[] = []
  const say = (where: TemplateFault['where'], words: string) => out.push({ where, of, words })
  if (topic === '') say('topic', 'is empty')
  else if (/[+#\0\n]/.test(topic) || /^[$/]|\/$|\/\//.test(topic))
    say('topic', `“${topic.slice(0, 60)}” is no topic: no +, #, line end, empty level, or $ at the beginning`)
  else if (topic === root || topic.startsWith(`${root}/`))
    say('topic', `“${topic.slice(0, 60)}” lies below ${root}/, where the nodes speak for themselves`)
  if (new TextEncoder().encode(topic).length > LONGEST_TOPIC) say('topic', `has more than ${LONGEST_TOPIC} bytes`)
  if (payload.trim() === '') say('payload', 'is empty: an empty retained message means that the thing is gone')
  if (new TextEncoder().encode(payload).length > LONGEST_PAYLOAD)
    say('payload', `has more than ${LONGEST_PAYLOAD} bytes`)
  if (json && payload.trim() !== '')
    try {
      JSON.parse(payload)
    } catch (e) {
      say('payload', `is not JSON: ${e instanceof Error ? e.message : String(e)}`)
    }
  return out
}

function sameTopics(messages: readonly Rendered[]): TemplateFault[] {
  const seen = new Map<string, string>()
  return messages.flatMap(({ of, topic }): TemplateFault[] => {
    const first = seen.get(topic)
    if (first === undefined) seen.set(topic, of)
    return first === undefined || topic === ''
      ? []
      : [{ where: 'topic', of, words: `“${topic}” is that of ${first} too: the second would take its place` }]
  })
}
