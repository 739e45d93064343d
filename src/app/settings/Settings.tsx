'use client'
import { useEffect, useState } from 'react'
import { type BrokerSettings, brokerSettingsSchema } from '@/core/shop/brokerSettings'
import type { BrokerView } from '@/wire/protocol'
import { ask } from '@/ui/live/api'
import { useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { Fact } from '@/ui/shell/Fact'
import { Backup } from './Backup'
import { Boards } from './Boards'
import { BrokerForm } from './BrokerForm'
import { Controllers } from './Controllers'
import { Copies } from './Copies'
import { Credentials } from './Credentials'
import { HeldBack } from './HeldBack'
import { Networks } from './Networks'
import { Places } from './Places'
import { RetiredNodes } from './RetiredNodes'
import { Sessions } from './Sessions'
import { ShopFile } from './ShopFile'

const ASK_AGAIN_MS = 2000

/**
 * What belongs to the shop rather than to one node: its places, networks and broker, and the whole of it in one file.
 */
export function Settings() {
  const shop = useLive((s) => s.shop)
  const loaded = useLive((s) => s.loaded)
  const link = useLive((s) => s.link)
  const [settings, setSettings] = useState<BrokerSettings | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [asked, setAsked] = useState(0)
  const missing = settings === null
  useEffect(() => {
    if (!missing || link === 'lost') return
    let again: ReturnType<typeof setTimeout> | undefined
    let gone = false
    void ask('/api/settings', brokerSettingsSchema).then((a) => {
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
  const broker = useLive((s) => s.broker)
  return (
    <Shell crumbs={[{ name: shop.name, href: '/' }, { name: 'Settings' }]} here="Settings" nodeId={null} back="/">
      <div className="title">
        <h1>Settings</h1>
        <Fact name="broker" value={loaded ? whereWords(broker) : '–'} />
        <Fact name="line to it" value={loaded ? linkWords(broker) : '–'} />
      </div>
      <div className="place wide">
        <div className="work" style={{ maxWidth: 980 }}>
          {missing && link === 'lost' && <p>The settings appear when the server answers.</p>}
          {missing && link !== 'lost' && problem !== null && (
            <p role="alert">The settings could not be read: {problem} It is tried again by itself.</p>
          )}
          <HeldBack />
          <Credentials />
          <Places />
          <Networks />
          <Controllers />
          <Boards />
          {settings && <BrokerForm kept={settings} onKept={setSettings} />}
          <ShopFile />
          <Backup />
          <RetiredNodes />
          <Copies />
          <Sessions />
        </div>
      </div>
    </Shell>
  )
}

const whereWords = ({ kind, host, port }: BrokerView): string =>
  kind === 'own' ? `our own, ${host}:${port}` : `${host}:${port}, outside`
const linkWords = ({ link }: BrokerView): string => (link.up ? 'up' : (link.why ?? 'down'))
