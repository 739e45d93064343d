'use client'
import { useEffect, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { CERTIFICATE_ADVICE, networkAdvice } from '@/core/shop/networkAdvice'
import { type ShopSettings, shopSettingsSchema } from '@/core/shop/settings'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { SHOP_PLACES } from '@/ui/shell/places'
import { Fact } from '../Shop'
import { Backup } from './Backup'
import { Copies } from './Copies'
import { Credentials } from './Credentials'
import { HeldBack } from './HeldBack'
import { Sessions } from './Sessions'

const ASK_AGAIN_MS = 2000

/**
 * What belongs to the shop rather than to one node: its places, networks and broker, and the whole of it in one file.
 */
export function Settings() {
  const shop = useLive((s) => s.shop)
  const loaded = useLive((s) => s.loaded)
  const link = useLive((s) => s.link)
  const [settings, setSettings] = useState<ShopSettings | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [asked, setAsked] = useState(0)
  const missing = settings === null
  useEffect(() => {
    if (!missing || link === 'lost') return
    let again: ReturnType<typeof setTimeout> | undefined
    let gone = false
    void ask('/api/settings', shopSettingsSchema).then((a) => {
      if (gone) return
      if (a.kind === 'ok') return setSettings(a.value)
      setProblem(a.kind === 'away' ? 'The server did not answer.' : a.error)
      again = setTimeout(() => setAsked((n) => n + 1), ASK_AGAIN_MS)
    })
    return () => {
      gone = true
      clearTimeout(again)
    }
  }, [missing, link, asked])
  const { broker } = shop
  return (
    <Shell
      crumbs={[{ name: shop.name, href: '/' }, { name: 'Settings' }]}
      places={SHOP_PLACES}
      here="Settings"
      back="/"
    >
      <div className="title">
        <h1>Settings</h1>
        <Fact
          name="broker"
          value={
            !loaded
              ? '–'
              : broker.kind === 'own'
                ? `our own, ${broker.host}:${broker.port}`
                : `${broker.host}:${broker.port}, outside`
          }
        />
        <Fact name="line to it" value={!loaded ? '–' : broker.link.up ? 'up' : (broker.link.why ?? 'down')} />
      </div>
      <div className="place wide">
        <div className="work" style={{ maxWidth: 980 }}>
          {missing && link === 'lost' && <p>The settings appear when the server answers.</p>}
          {missing && link !== 'lost' && problem !== null && (
            <p role="alert">The settings could not be read: {problem} It is tried again by itself.</p>
          )}
          <HeldBack />
          <Credentials />
          {settings && <SettingsForm kept={settings} onKept={setSettings} />}
          <Backup />
          <Copies />
          <Sessions />
        </div>
      </div>
    </Shell>
  )
}

interface Draft {
  shop: string
  places: string
  networks: ShopSettings['networks']
  kind: 'own' | 'outside'
  url: string
  login: string
  password: string
}

function draftOf(s: ShopSettings): Draft {
  return {
    shop: s.shop,
    places: s.places.join('\n'),
    networks: s.networks,
    kind: s.broker.kind,
    url: s.broker.kind === 'outside' ? s.broker.url : 'mqtt://',
    login: s.broker.kind === 'outside' ? s.broker.login : '',
    password: '',
  }
}

function settingsOf(d: Draft): unknown {
  return {
    shop: d.shop,
    places: d.places
      .split('\n')
      .map((p) => p.trim())
      .filter(Boolean),
    networks: d.networks,
    broker: d.kind === 'own' ? { kind: 'own' } : { kind: 'outside', url: d.url, login: d.login },
  }
}

function SettingsForm({ kept, onKept }: { kept: ShopSettings; onKept: (s: ShopSettings) => void }) {
  const [draft, setDraft] = useState(() => draftOf(kept))
  const [problems, setProblems] = useState<Record<string, string>>({})
  const put = (change: Partial<Draft>) => setDraft((d) => ({ ...d, ...change }))
  const said = (...paths: string[]) => {
    const text = Object.entries(problems)
      .filter(([at]) => paths.some((p) => at === p || at.startsWith(`${p}.`)))
      .map(([, t]) => t)[0]
    return text === undefined ? null : (
      <div className="small" role="alert">
        Expected: {text}.
      </div>
    )
  }
  const submit = async (e: React.FormEvent) => {
    e.preventDefault()
    const parsed = shopSettingsSchema.safeParse(settingsOf(draft))
    if (!parsed.success)
      return setProblems(Object.fromEntries(parsed.error.issues.map((i) => [i.path.join('.'), i.message])))
    setProblems({})
    const answer = await ask('/api/settings', z.object({}), {
      settings: parsed.data,
      ...(draft.kind === 'outside' && draft.password !== '' ? { outsidePassword: draft.password } : {}),
    })
    if (answer.kind === 'ok') {
      onKept(parsed.data)
      put({ password: '' })
      say('Settings kept.')
    } else say(answer.kind === 'away' ? 'The server cannot be reached; nothing was changed.' : answer.error, 'refused')
  }
  return (
    <Form onSubmit={(e) => void submit(e)} noValidate aria-label="settings">
      <section className="setting">
        <h2>Shop and places</h2>
        <div>
          <Form.Label htmlFor="s-shop">what the shop is called</Form.Label>
          <Form.Control
            id="s-shop"
            value={draft.shop}
            onChange={(e) => put({ shop: e.target.value })}
            autoComplete="off"
          />
          {said('shop')}
        </div>
        <div>
          <Form.Label htmlFor="s-places">places, one a line: rooms and yards a node can be in</Form.Label>
          <Form.Control
            id="s-places"
            as="textarea"
            rows={6}
            value={draft.places}
            onChange={(e) => put({ places: e.target.value })}
          />
          {said('places')}
        </div>
      </section>
      <section className="setting">
        <h2>Networks</h2>
        <p className="small soft">
          A node’s file names its network by the short name; what the network is called can change here without touching
          a design.
        </p>
        {draft.networks.map((n, i) => (
          <div key={i} className="fields">
            <div>
              <Form.Label htmlFor={`s-ref-${i}`}>short name</Form.Label>
              <Form.Control
                id={`s-ref-${i}`}
                value={n.ref}
                onChange={(e) =>
                  put({ networks: draft.networks.map((x, k) => (k === i ? { ...x, ref: e.target.value } : x)) })
                }
                autoComplete="off"
              />
            </div>
            <div>
              <Form.Label htmlFor={`s-net-${i}`}>name of the network</Form.Label>
              <Form.Control
                id={`s-net-${i}`}
                value={n.name}
                onChange={(e) =>
                  put({ networks: draft.networks.map((x, k) => (k === i ? { ...x, name: e.target.value } : x)) })
                }
                autoComplete="off"
              />
            </div>
            <div>
              <Form.Label htmlFor={`s-band-${i}`}>it sends at</Form.Label>
              <Form.Select
                id={`s-band-${i}`}
                value={n.band}
                onChange={(e) =>
                  put({
                    networks: draft.networks.map((x, k) =>
                      k === i ? { ...x, band: e.target.value as typeof x.band } : x,
                    ),
                  })
                }
              >
                <option value="2.4">2.4 GHz</option>
                <option value="both">2.4 and 5 GHz</option>
                <option value="5">5 GHz only</option>
              </Form.Select>
            </div>
            <Form.Check
              id={`s-hidden-${i}`}
              label="hidden name"
              checked={n.hidden}
              onChange={(e) =>
                put({ networks: draft.networks.map((x, k) => (k === i ? { ...x, hidden: e.target.checked } : x)) })
              }
            />
            {draft.networks.length > 1 && (
              <Button
                variant="bare"
                className="small"
                aria-label={`remove network ${n.ref}`}
                onClick={() => put({ networks: draft.networks.filter((_, k) => k !== i) })}
              >
                remove
              </Button>
            )}
          </div>
        ))}
        {draft.networks.flatMap((n) =>
          networkAdvice({ ...n, password: 'not asked here' }).map((a) => (
            <p key={n.ref + a.words} className="small">
              <b>{a.severity}</b> {n.ref}: {a.words}
            </p>
          )),
        )}
        {said('networks')}
        <div>
          <Button
            variant="quiet"
            onClick={() =>
              put({
                networks: [
                  ...draft.networks,
                  { ref: `net-${draft.networks.length + 1}`, name: '', hidden: false, band: '2.4' },
                ],
              })
            }
          >
            Another network
          </Button>
        </div>
      </section>
      <section className="setting">
        <h2>Broker</h2>
        <Form.Check
          type="radio"
          id="s-own"
          name="broker"
          label="our own, in this program"
          checked={draft.kind === 'own'}
          onChange={() => put({ kind: 'own' })}
        />
        <Form.Check
          type="radio"
          id="s-outside"
          name="broker"
          label="one that runs elsewhere"
          checked={draft.kind === 'outside'}
          onChange={() => put({ kind: 'outside' })}
        />
        {draft.kind === 'outside' && (
          <>
            <div className="fields">
              <div>
                <Form.Label htmlFor="s-url">address</Form.Label>
                <Form.Control
                  id="s-url"
                  value={draft.url}
                  onChange={(e) => put({ url: e.target.value })}
                  autoComplete="off"
                  style={{ width: 300 }}
                />
              </div>
              <div>
                <Form.Label htmlFor="s-login">login</Form.Label>
                <Form.Control
                  id="s-login"
                  value={draft.login}
                  onChange={(e) => put({ login: e.target.value })}
                  autoComplete="off"
                />
              </div>
              <div>
                <Form.Label htmlFor="s-password">
                  password{kept.broker.kind === 'outside' ? ', empty leaves the one kept' : ''}
                </Form.Label>
                <Form.Control
                  id="s-password"
                  type="password"
                  value={draft.password}
                  onChange={(e) => put({ password: e.target.value })}
                  autoComplete="new-password"
                />
              </div>
            </div>
            {said('broker')}
            {draft.url.startsWith('mqtts:') && (
              <p className="small">
                <b>{CERTIFICATE_ADVICE.severity}</b> {CERTIFICATE_ADVICE.words}
              </p>
            )}
            <p className="small soft">
              That login must be allowed to read and write below vn/. Rules about who may publish what are then that
              broker’s own; ours stand down. The password is stored encrypted and shown nowhere.
            </p>
          </>
        )}
      </section>
      <div style={{ padding: '14px 0' }}>
        <Button type="submit">Keep these settings</Button>
      </div>
    </Form>
  )
}
