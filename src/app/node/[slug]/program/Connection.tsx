'use client'
import { goneAfterS } from '@/core/publish/staleness'
import Link from 'next/link'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { fixedAddressSchema } from '@/core/model/design'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { ask } from '@/ui/live/api'
import { edit, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { z } from 'zod'

const WHY = {
  lease: 'Reserve the lease at the access point: the address stays the same, and nothing on the node has to know it.',
  name: 'The node is found by its name; the address may change.',
  fixed: 'Saves half a second of radio at each waking. Nobody else may get this address.',
} as const

/** Network by reference, address, keep-alive, and what its network’s password has become. */
export function Connection({ view }: { view: NodeView }) {
  const {
    node: { id, design, live },
  } = view
  const networks = useLive((s) => s.shop.networks)
  const broker = useLive((s) => s.broker)
  const carriers = useLive((s) => s.carriers)
  const { network } = design
  const { tls } = view.board.interpreter
  const carried = carriers.find((c) => c.ref === network.ref)?.nodes.find((n) => n.id === id)
  const save = (set: Partial<typeof network>) => edit(id, { kind: 'connect', ...network, ...set })
  const renew = async () => {
    const answer = await ask(`/api/nodes/${id}/login`, z.object({}), {})
    say(
      answer.kind === 'ok' ? `${design.name} has a new login.` : answer.error,
      answer.kind === 'ok' ? 'told' : 'refused',
    )
  }
  return (
    <div className="setting" style={{ maxWidth: 760 }}>
      <div className="fields">
        <div>
          <Form.Label htmlFor="c-net">network</Form.Label>
          <Form.Select id="c-net" value={network.ref} onChange={(e) => save({ ref: e.target.value })}>
            {[...new Set([network.ref, ...Object.keys(networks)])].map((ref) => (
              <option key={ref} value={ref}>
                {ref}
                {ref in networks ? '' : ' (not in the settings)'}
              </option>
            ))}
          </Form.Select>
        </div>
        <div>
          <Form.Label htmlFor="c-address">address</Form.Label>
          <Form.Select
            id="c-address"
            value={network.address}
            onChange={(e) => {
              const address = z.enum(['lease', 'name', 'fixed']).parse(e.target.value)
              save({
                address,
                fixed:
                  address === 'fixed'
                    ? (network.fixed ?? {
                        ip: '192.168.1.50',
                        mask: '255.255.255.0',
                        gateway: '192.168.1.1',
                        dns: '192.168.1.1',
                      })
                    : network.fixed,
              })
            }}
          >
            <option value="lease">reserved lease and name</option>
            <option value="name">name alone</option>
            <option value="fixed">fixed</option>
          </Form.Select>
        </div>
        <EditField
          id="c-keep"
          label="keep-alive"
          unit="s"
          width={110}
          value={network.keepAliveS}
          schema={numberIn(2, 600, 's').pipe(z.int('Whole seconds only.'))}
          onSave={(keepAliveS) => save({ keepAliveS })}
        />
        <div style={{ alignSelf: 'end' }}>
          <Form.Check
            id="c-secure"
            label="through TLS"
            checked={network.secure}
            disabled={!network.secure && !tls}
            onChange={(e) => save({ secure: e.target.checked })}
          />
          <Form.Check
            id="c-says"
            label="says on its console how far it has come"
            checked={!network.quiet}
            onChange={(e) => save({ quiet: !e.target.checked })}
          />
        </div>
      </div>
      <p className="small soft">
        {tls
          ? `TLS: the broker is known by the print of its certificate, also before the clock is. It takes about ${Math.round(tls.heapB / 1024)} KiB of this board’s memory and one handshake of about ${tls.handshakeS} s at each connection; no pulse runs meanwhile. The broker needs a certificate (VIVID_TLS_CERT, VIVID_TLS_KEY).`
          : 'This board has no memory for TLS: keep its network to itself.'}
      </p>
      <p className="small soft">{WHY[network.address]}</p>
      {network.address === 'fixed' && network.fixed && (
        <FixedFields fixed={network.fixed} onSave={(fixed) => save({ fixed })} />
      )}
      <dl className="facts">
        <dt>broker</dt>
        <dd>
          {broker.host}:{broker.port}, {broker.kind === 'own' ? 'our own' : 'outside'}
        </dd>
        <dt>signal</dt>
        <dd>{live.health?.dbm == null ? 'not heard yet' : `${String(live.health.dbm).replace('-', '−')} dBm`}</dd>
        <dt>network’s password</dt>
        <dd>
          {carriedWords(carried)} · <Link href="/settings">settings</Link>
        </dd>
        <dt>gone after</dt>
        <dd>{goneAfterS(network.keepAliveS)} s of silence</dd>
      </dl>
      <div>
        <Button variant="quiet" onClick={() => void renew()} disabled={live.status?.is !== 'online'}>
          Renew its broker login
        </Button>{' '}
        <span className="small soft">Both passwords count until the node has come back with the new one.</span>
      </div>
    </div>
  )
}

function FixedFields({
  fixed,
  onSave,
}: {
  fixed: z.infer<typeof fixedAddressSchema>
  onSave: (f: z.infer<typeof fixedAddressSchema>) => void
}) {
  const [draft, setDraft] = useState(fixed)
  const parsed = fixedAddressSchema.safeParse(draft)
  const words = { ip: 'address', mask: 'mask', gateway: 'gateway', dns: 'name server' } as const
  return (
    <div className="fields">
      {(['ip', 'mask', 'gateway', 'dns'] as const).map((key) => (
        <div key={key}>
          <Form.Label htmlFor={`c-${key}`}>{words[key]}</Form.Label>
          <Form.Control
            id={`c-${key}`}
            style={{ width: 150 }}
            value={draft[key]}
            autoComplete="off"
            isInvalid={!fixedAddressSchema.shape[key].safeParse(draft[key]).success}
            onChange={(e) => setDraft({ ...draft, [key]: e.target.value.trim() })}
            onBlur={() => {
              if (parsed.success) onSave(parsed.data)
            }}
          />
        </div>
      ))}
      {!parsed.success && (
        <div className="small" role="alert">
          Expected: {parsed.error.issues[0]?.message}.
        </div>
      )}
    </div>
  )
}

function carriedWords(carried: { state: string; reason: string | null } | undefined): string {
  if (!carried) return 'unknown'
  if (carried.state === 'carried') return 'got in with the present one'
  return carried.reason ? `${carried.state}: ${carried.reason}` : carried.state
}
