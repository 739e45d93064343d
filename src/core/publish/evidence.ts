import { goneReasons, type GoneReason, isGone, type Silence } from './gone'
import { isLate } from './staleness'

/** A signal that is looked at, with what is known of it. Times in s UTC. */
export interface OddSignal {
  tag: string
  name: string
  access: 'reading' | 'state' | 'output' | 'event'
  /** Its part, as labelled, and the terminals it is wired by. */
  part: string
  terminals: string
  /** undefined: never heard; null: unknown. */
  value: number | boolean | string | null | undefined
  atS: number | null
  everyS: number
  fault: { what: string; atS: number } | null
  /** The file the node runs has it; null: nobody knows what it runs. */
  inFile: boolean | null
}

/** One link from this page to the part. `holds` null: nobody can say from here. */
export interface Link {
  name: string
  known: string
  holds: boolean | null
}

export interface Evidence {
  links: Link[]
  /** The likeliest first; empty where everything holds. */
  causes: GoneReason[]
}

export interface Known {
  node: Silence & { name: string; runs: number | null; network: string }
  others: readonly Silence[]
  broker: { up: boolean; why: string | null }
  /** What has been shown of its network's password: carried, pending … */
  carries: string | null
  /** What its cable said last, if one is on it. */
  cable: { text: string; wrong: boolean; next: string } | null
  signal: OddSignal | null
}

const dbmWords = (dbm: number) => `${String(dbm).replace('-', '−')} dBm`
const WEAK_DBM = -80
const SELF_STARTED = ['watchdog', 'firmware', 'brown-out']

/** What is known of every link from here to a node, or to one of its signals, and which causes fit. */
export function evidenceOf(known: Known, nowS: number, ago: (s: number) => string): Evidence {
  const { node, others, broker, signal } = known
  const gone = isGone(node, nowS)
  const links = [
    brokerLink(broker),
    lastPacket(node, nowS, ago),
    willLink(node),
    networkLink(known, nowS),
    startLink(node, ago),
    ...(known.cable === null ? [] : [{ name: 'on its cable', known: known.cable.text, holds: !known.cable.wrong }]),
    ...(signal === null ? [] : signalLinks(signal, gone, nowS, ago)),
  ]
  const causes = [
    // What the board says itself goes before what its silence may mean.
    ...(known.cable?.wrong ? [{ words: known.cable.text, next: known.cable.next }] : []),
    ...goneReasons(node, others, broker, nowS),
    ...(signal === null || gone || !broker.up ? [] : signalCauses(signal, nowS)),
  ]
  return { links, causes }
}

function brokerLink({ up, why }: Known['broker']): Link {
  return { name: 'this page to the broker', known: up ? 'connected' : (why ?? 'not connected'), holds: up }
}

function lastPacket({ heardAtS }: Silence, nowS: number, ago: (s: number) => string): Link {
  return {
    name: 'its last packet',
    known: heardAtS === null ? 'never heard' : `${ago(nowS - heardAtS)} ago`,
    holds: heardAtS === null ? false : null,
  }
}

function willLink({ status }: Silence): Link {
  const name = 'its last word, or its will'
  if (status === null) return { name, known: 'it has never said that it is there', holds: false }
  if (status.is === 'asleep') return { name, known: `asleep, for ${status.for} s`, holds: true }
  return status.is === 'online'
    ? { name, known: 'online', holds: true }
    : { name, known: 'offline: the broker told its will, so the connection ended without a goodbye', holds: false }
}

function networkLink({ node, others, carries }: Known, nowS: number): Link {
  const same = others.filter((o) => o.network === node.network && o.status !== null)
  const there = same.filter((o) => !isGone(o, nowS)).length
  const dbm = node.health?.dbm ?? null
  const words = [
    same.length === 0
      ? `no other node is in network “${node.network}”`
      : `${there} of ${same.length} others in network “${node.network}” are there`,
    dbm === null ? '' : `last at ${dbmWords(dbm)}`,
    carries === null || carries === 'carried' ? '' : `its network password is ${carries}`,
  ]
  const strong = dbm === null ? null : dbm >= WEAK_DBM
  const holds = same.length > 0 && there === 0 ? false : strong
  return { name: 'its network', known: words.filter(Boolean).join('; '), holds }
}

function startLink({ health, runs }: Known['node'], ago: (s: number) => string): Link {
  const name = 'its last start'
  if (!health) return { name, known: 'it has said nothing of itself', holds: null }
  const file = runs === null ? '' : `, revision ${runs}`
  return {
    name,
    known: `by ${health.restart}, it was up ${ago(health.uptimeS)}${file}`,
    holds: !SELF_STARTED.includes(health.restart),
  }
}

function signalLinks(signal: OddSignal, gone: boolean, nowS: number, ago: (s: number) => string): Link[] {
  const { inFile, value, atS, fault, everyS, access } = signal
  const age = atS === null ? null : nowS - atS
  const late = age !== null && access !== 'event' && isLate(everyS, age * 1000)
  const words = String(value === undefined ? 'never' : (value ?? 'unknown'))
  return [
    {
      name: 'in the file it runs',
      known: fileWords(inFile),
      holds: inFile,
    },
    {
      name: `${signal.tag} ${signal.name}`,
      known: `${words}${age === null ? '' : `, ${ago(age)} ago`}${late ? `, promised every ${everyS} s` : ''}`,
      holds: value === undefined && access === 'event' ? null : value !== undefined && value !== null && !late && !gone,
    },
    ...(fault === null
      ? []
      : [{ name: 'what the node says of it', known: `${fault.what}, ${ago(nowS - fault.atS)} ago`, holds: false }]),
  ]
}

function signalCauses(signal: OddSignal, nowS: number): GoneReason[] {
  const { inFile, value, atS, fault, everyS, access, part, terminals } = signal
  if (inFile === false)
    return [
      {
        words: 'The node runs an older file that does not have it.',
        next: 'Send the design: Program, Send.',
      },
    ]
  const out: GoneReason[] = []
  if (fault !== null)
    out.push({ words: `The node itself says: ${fault.what}.`, next: `Look at ${part}, terminals ${terminals}, first.` })
  if (value === null && access !== 'event')
    out.push(
      {
        words: `${part} does not answer, or answers nonsense.`,
        next: `Measure its supply at the part itself while it is connected, then the line at ${terminals}.`,
      },
      {
        words: 'What it reads lies outside of what the part can read.',
        next: 'Look at the raw reading: Tune, listen closely.',
      },
    )
  if (value === undefined && access !== 'event')
    out.push({
      words: 'It has never said a value: its part has not answered since the node started.',
      next: `Measure the supply of ${part}, then compare its wires with the list under Wires.`,
    })
  const late = atS !== null && access !== 'event' && isLate(everyS, (nowS - atS) * 1000)
  if (late && value !== null)
    out.push({
      words: 'The node is there, but this signal is not told: its driver waits or has stopped.',
      next: 'Look at the restart cause above; take the part off and see whether the others come on.',
    })
  if (access === 'event' && value === undefined)
    out.push({
      words: 'Nothing has happened there since the node started.',
      next: `Press it, and measure at ${terminals} whether the level changes.`,
    })
  return out
}

function fileWords(inFile: boolean | null): string {
  if (inFile === null) return 'nobody knows which it runs'
  return inFile ? 'yes' : 'no: the design has it, the node does not'
}
