'use client'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Catalog } from '@/core/catalog/catalog'
import { byId, type Design, inOrder } from '@/core/model/design'
import { type DesignGroup, GROUP_KINDS, type GroupKind } from '@/core/model/group'
import { channelOf } from '@/core/publish/channelOf'
import { fitsRole, GROUP_ROLES, proposedGroups } from '@/core/publish/groups'
import { edit } from '@/ui/live/store'
import { Ferrule } from '@/ui/thread/Ferrule'

const newId = (taken: object): string => {
  for (let n = 1; ; n++) if (!Object.hasOwn(taken, `e${n}`)) return `e${n}`
}

/** Signals of a node that are one entity together: those that are, those that could be, and a way to make one. */
export function Groups({ nodeId, design, catalog }: { nodeId: string; design: Design; catalog: Catalog }) {
  const groups = byId(design.groups)
  const proposed = useMemo(() => proposedGroups(design, catalog), [design, catalog])
  const [made, setMade] = useState<DesignGroup | null>(null)
  const put = (id: string, group: DesignGroup | null) => edit(nodeId, { kind: 'set-group', groupId: id, group })
  return (
    <section aria-label="groups">
      <h2 className="mt-4">One entity of several threads</h2>
      <p className="small soft">
        A door with its lock, a lamp with its white balance, a climate of temperature and humidity: what belongs
        together is announced as one, with a role for each thread.
      </p>
      {groups.map(({ id, value }) => (
        <div key={id} className="d-flex gap-3 align-items-baseline flex-wrap mb-2" data-group={id}>
          <b>{value.name}</b>
          <span className="soft">{GROUP_ROLES[value.kind].name}</span>
          <Roles design={design} group={value} />
          <Button variant="bare" onClick={() => put(id, null)}>
            take apart
          </Button>
        </div>
      ))}
      {proposed.map((p) => (
        <div key={p.kind + p.name} className="d-flex gap-3 align-items-baseline flex-wrap mb-2">
          <Button variant="quiet" onClick={() => put(newId(design.groups), p)}>
            Make “{p.name}” one {GROUP_ROLES[p.kind].name}
          </Button>
          <Roles design={design} group={p} />
        </div>
      ))}
      {made === null ? (
        <Button variant="bare" onClick={() => setMade({ kind: 'door', name: design.name, roles: {} })}>
          put one together
        </Button>
      ) : (
        <MakeGroup
          {...{ design, catalog, made }}
          onMade={setMade}
          onDone={() => put(newId(design.groups), made) && setMade(null)}
        />
      )}
    </section>
  )
}

function Roles({ design, group }: { design: Design; group: DesignGroup }) {
  return (
    <span className="d-flex gap-2 flex-wrap">
      {Object.entries(group.roles).map(([role, id]) => {
        const signal = design.signals[id]
        return (
          signal && (
            <span key={role} className="small text-nowrap">
              {role} <Ferrule signal={signal} />
            </span>
          )
        )
      })}
    </span>
  )
}

interface MakeProps {
  design: Design
  catalog: Catalog
  made: DesignGroup
  onMade: (group: DesignGroup | null) => void
  onDone: () => void
}

function MakeGroup({ design, catalog, made, onMade, onDone }: MakeProps) {
  const taken = new Set(Object.values(design.groups).flatMap((g) => Object.values(g.roles)))
  return (
    <div className="d-flex gap-3 align-items-end flex-wrap">
      <div>
        <Form.Label htmlFor="group-kind">kind</Form.Label>
        <Form.Select
          id="group-kind"
          value={made.kind}
          onChange={(e) => onMade({ ...made, kind: e.target.value as GroupKind, roles: {} })}
        >
          {GROUP_KINDS.map((k) => (
            <option key={k} value={k}>
              {GROUP_ROLES[k].name}
            </option>
          ))}
        </Form.Select>
      </div>
      <div>
        <Form.Label htmlFor="group-name">name</Form.Label>
        <Form.Control id="group-name" value={made.name} onChange={(e) => onMade({ ...made, name: e.target.value })} />
      </div>
      {Object.entries(GROUP_ROLES[made.kind].roles).map(([role, wanted]) => {
        const fit = inOrder(design.signals).filter(
          ({ id, value }) => !taken.has(id) && fitsRole(channelOf(design, catalog, value), wanted),
        )
        if (fit.length === 0) return null
        return (
          <div key={role}>
            <Form.Label htmlFor={`group-${role}`}>{role}</Form.Label>
            <Form.Select
              id={`group-${role}`}
              value={made.roles[role] ?? ''}
              onChange={(e) => {
                const { [role]: _, ...others } = made.roles
                onMade({ ...made, roles: e.target.value === '' ? others : { ...others, [role]: e.target.value } })
              }}
            >
              <option value="">–</option>
              {fit.map(({ id, value }) => (
                <option key={id} value={id}>
                  {value.tag} {value.name}
                </option>
              ))}
            </Form.Select>
          </div>
        )
      })}
      <Button variant="quiet" onClick={onDone}>
        Put together
      </Button>
      <Button variant="bare" onClick={() => onMade(null)}>
        leave it
      </Button>
    </div>
  )
}
