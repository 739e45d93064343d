'use client'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Catalog } from '@/core/catalog/catalog'
import { byId } from '@/core/model/design'
import { LONGEST_TEXT, type Template } from '@/core/model/template'
import type { SheetNode } from '@/core/publish/entitySheet'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { entityFields, nodeFields } from '@/core/templates/fields'
import { renderTemplate } from '@/core/templates/render'
import { entitySheet } from '@/core/publish/entitySheet'
import { editShop, useLive } from '@/ui/live/store'

const FIRST: Template = {
  name: 'my controller',
  per: 'entity',
  topic: 'controller/{{ node.slug }}/{{ entity.slug }}',
  payload:
    '{"name": {{ entity.full_name | json }}, "read": {{ entity.topic | json }}, "write": {{ entity.set_topic | json }}}',
  json: true,
  on: false,
}
const newId = (taken: object): string => {
  for (let n = 1; ; n++) if (!Object.hasOwn(taken, `t${n}`)) return `t${n}`
}

/** Forms of their own in which controllers are told of entities: written here, checked for every entity, previewed. */
export function Templates({ nodes }: { nodes: readonly SheetNode[] }) {
  const templates = useLive((s) => s.shop.templates)
  const catalog = useLive((s) => s.catalog)
  const put = (id: string, template: Template | null) => editShop({ kind: 'set-template', templateId: id, template })
  return (
    <section aria-label="templates" className="mt-5 on-screen">
      <h2>Announced in another form</h2>
      <p className="small soft">
        A controller that does not read Thing Descriptions may want to be told of each entity on a topic and in a form
        of its own. Write both here, with {'{{ fields }}'} of the sheet; what they make is published retained, and
        cleared when the thing goes or is renamed.
      </p>
      {byId(templates).map(({ id, value }) => (
        <TemplateWork key={id} {...{ template: value, nodes, catalog }} onPut={(t) => put(id, t)} />
      ))}
      <Button variant="quiet" onClick={() => put(newId(templates), FIRST)}>
        Write one
      </Button>
    </section>
  )
}

interface WorkProps {
  template: Template
  nodes: readonly SheetNode[]
  catalog: Catalog
  onPut: (template: Template | null) => void
}

function TemplateWork({ template: kept, nodes, catalog, onPut }: WorkProps) {
  const [draft, setDraft] = useState(kept)
  const made = useMemo(() => renderTemplate(draft, nodes, catalog, DEFAULT_ROOT), [draft, nodes, catalog])
  const [at, setAt] = useState(0)
  const changed = JSON.stringify(draft) !== JSON.stringify(kept)
  const shown = made.messages[Math.min(at, made.messages.length - 1)]
  const set = (part: Partial<Template>) => setDraft((d) => ({ ...d, ...part }))
  return (
    <div className="template mb-4" data-template={kept.name}>
      <div className="d-flex gap-3 align-items-end flex-wrap">
        <div>
          <Form.Label htmlFor={`${kept.name}-name`}>name</Form.Label>
          <Form.Control
            id={`${kept.name}-name`}
            value={draft.name}
            maxLength={60}
            onChange={(e) => set({ name: e.target.value })}
          />
        </div>
        <Form.Select
          aria-label="one message for each"
          className="w-auto"
          value={draft.per}
          onChange={(e) => set({ per: e.target.value === 'node' ? 'node' : 'entity' })}
        >
          <option value="entity">a message for each entity</option>
          <option value="node">a message for each node</option>
        </Form.Select>
        <Form.Check
          id={`${kept.name}-json`}
          label="the payload is JSON"
          checked={draft.json}
          onChange={(e) => set({ json: e.target.checked })}
        />
        <Form.Check
          id={`${kept.name}-on`}
          label="published"
          checked={draft.on}
          onChange={(e) => set({ on: e.target.checked })}
        />
      </div>
      <Form.Label htmlFor={`${kept.name}-topic`}>topic</Form.Label>
      <Form.Control
        id={`${kept.name}-topic`}
        className="mono"
        value={draft.topic}
        spellCheck={false}
        maxLength={500}
        onChange={(e) => set({ topic: e.target.value })}
      />
      <Form.Label htmlFor={`${kept.name}-payload`}>payload</Form.Label>
      <Form.Control
        as="textarea"
        rows={5}
        id={`${kept.name}-payload`}
        className="mono"
        value={draft.payload}
        spellCheck={false}
        maxLength={LONGEST_TEXT}
        onChange={(e) => set({ payload: e.target.value })}
      />
      {made.faults.length > 0 ? (
        <ul className="small mt-2" role="alert" data-template-faults={made.faults.length}>
          {made.faults.slice(0, 6).map((f) => (
            <li key={f.where + f.of + f.words}>
              The {f.where}
              {f.of === '' ? '' : ` of ${f.of}`} {f.words}.
            </li>
          ))}
          {made.faults.length > 6 && <li>and {made.faults.length - 6} more</li>}
        </ul>
      ) : (
        shown && (
          <figure className="mt-2 mb-2" aria-label="as the broker will carry it">
            <figcaption className="small soft">
              {made.messages.length} messages; as the broker will carry {shown.of}:{' '}
              <Button variant="bare" onClick={() => setAt((at + 1) % made.messages.length)}>
                the next one
              </Button>
            </figcaption>
            <pre className="mono small mb-0 carried" tabIndex={0} data-preview>
              {shown.topic}
              {'\n'}
              {shown.payload}
            </pre>
          </figure>
        )
      )}
      <div className="d-flex gap-3 flex-wrap">
        <Button
          variant="quiet"
          disabled={!changed || (draft.on && made.faults.length > 0)}
          onClick={() => onPut(draft)}
        >
          {draft.on ? 'Keep and publish' : 'Keep'}
        </Button>
        <Button variant="bare" onClick={() => onPut(null)}>
          drop it
        </Button>
        <Fields nodes={nodes} catalog={catalog} per={draft.per} />
      </div>
    </div>
  )
}

/** The names a template can use, with what they are for the first entity. */
function Fields({ nodes, catalog, per }: { nodes: readonly SheetNode[]; catalog: Catalog; per: Template['per'] }) {
  const [first] = nodes
  const row = first && entitySheet([first], catalog, DEFAULT_ROOT)[0]
  if (!first || !row) return null
  const told = (of: string, fields: object) =>
    Object.entries(fields).map(([name, value]) => (
      <li key={name}>
        {of}.{name} <span className="soft">{JSON.stringify(value)}</span>
      </li>
    ))
  return (
    <details className="small">
      <summary>fields</summary>
      <ul className="mono">
        {told('node', nodeFields(first, DEFAULT_ROOT))}
        {per === 'node' && <li>entities: a list of</li>}
        {told('entity', entityFields(row))}
      </ul>
    </details>
  )
}
