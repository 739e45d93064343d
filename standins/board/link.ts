import net from 'node:net'
import tls from 'node:tls'

/** `ended` is a clean close from the far side, `reset` a broken one. */
export type SocketState = 'new' | 'connecting' | 'open' | 'refused' | 'reset' | 'ended'

/** The board's connections, as its sockets see them. */
export interface BoardLink {
  readonly isCut: boolean
  setCut(cut: boolean): void
  open(): number
  connect(id: number, host: string, port: number): void
  state(id: number): SocketState
  room(id: number, wanted: number): number
  send(id: number, hex: string): void
  receive(id: number, limit: number): string
  waiting(id: number): boolean
  close(id: number): void
  /** The far side's certificate, DER in hex; empty without TLS. */
  certificate(id: number): string
  /** The radio goes off: what was not sent is gone, and nobody is told. */
  silence(): void
  closeAll(): void
}

interface Entry {
  state: SocketState
  socket: net.Socket | null
  inbox: Buffer[]
  outbox: Buffer[]
}

/** Bytes a small board holds for sending before it says “later”. */
const SEND_ROOM = 2048
/** A board sees what arrives in pieces of about one radio frame. */
const PIECE = 536
/** What the board hands over is in the air only this much later, ms. */
const AIR_MS = 12
/** Ports that are reached through TLS. */
const SECURE = new Set((process.env.VIVID_STANDIN_TLS_PORTS ?? '').split(',').map(Number))

/**
 * The board's sockets on real TCP. While the link is cut nothing passes in either direction and nobody is told:
 * connections stay open at both ends and go silent, as they do when an antenna comes off.
 */
export class Link implements BoardLink {
  private entries = new Map<number, Entry>()
  private next = 1
  private cut = false

  get isCut(): boolean {
    return this.cut
  }

  setCut(cut: boolean): void {
    this.cut = cut
    for (const e of this.entries.values()) {
      if (cut) e.socket?.pause()
      else {
        e.socket?.resume()
        this.flush(e)
      }
    }
  }

  open(): number {
    const id = this.next++
    this.entries.set(id, { state: 'new', socket: null, inbox: [], outbox: [] })
    return id
  }

  connect(id: number, host: string, port: number): void {
    const e = this.entries.get(id)
    if (!e) return
    e.state = 'connecting'
    if (this.cut) return
    const socket = SECURE.has(port)
      ? tls.connect({ host, port, rejectUnauthorized: false })
      : net.connect({ host, port })
    e.socket = socket
    socket.on(SECURE.has(port) ? 'secureConnect' : 'connect', () => {
      e.state = 'open'
    })
    socket.on('data', (data) => {
      e.inbox.push(data)
    })
    socket.on('end', () => {
      e.state = 'ended'
    })
    socket.on('error', () => {
      e.state = e.state === 'connecting' ? 'refused' : 'reset'
    })
    socket.on('close', () => {
      if (e.state === 'open') e.state = 'reset'
    })
  }

  state(id: number): SocketState {
    return this.entries.get(id)?.state ?? 'reset'
  }

  room(id: number, wanted: number): number {
    const e = this.entries.get(id)
    if (!e || (e.state !== 'open' && e.state !== 'ended')) return 0
    const held = e.outbox.reduce((n, b) => n + b.length, 0)
    return Math.max(0, Math.min(wanted, SEND_ROOM - held))
  }

  send(id: number, hex: string): void {
    const e = this.entries.get(id)
    if (!e) return
    e.outbox.push(Buffer.from(hex, 'hex'))
    setTimeout(() => this.flush(e), AIR_MS)
  }

  receive(id: number, limit: number): string {
    const e = this.entries.get(id)
    const first = e?.inbox[0]
    if (!e || !first || this.cut) return ''
    const piece = first.subarray(0, Math.min(limit, PIECE))
    if (piece.length === first.length) e.inbox.shift()
    else e.inbox[0] = first.subarray(piece.length)
    return piece.toString('hex')
  }

  waiting(id: number): boolean {
    return !this.cut && (this.entries.get(id)?.inbox.length ?? 0) > 0
  }

  close(id: number): void {
    const e = this.entries.get(id)
    this.entries.delete(id)
    if (!e?.socket) return
    // A radio that is cut off cannot say goodbye either: the far side finds out by its own clock.
    if (this.cut) e.socket.pause()
    else {
      this.leaving.add(e)
      setTimeout(() => {
        if (this.leaving.delete(e)) e.socket?.end()
      }, AIR_MS + 1)
    }
    if (this.cut) this.orphans.push(e.socket)
  }

  certificate(id: number): string {
    const socket = this.entries.get(id)?.socket
    return socket instanceof tls.TLSSocket ? (socket.getPeerX509Certificate()?.raw.toString('hex') ?? '') : ''
  }

  silence(): void {
    for (const e of [...this.entries.values(), ...this.leaving]) {
      e.outbox = []
      if (e.socket) this.orphans.push(e.socket.pause())
    }
    this.entries.clear()
    this.leaving.clear()
  }

  private leaving = new Set<Entry>()

  closeAll(): void {
    for (const e of this.entries.values()) e.socket?.destroy()
    for (const s of this.orphans) s.destroy()
    this.entries.clear()
  }

  private orphans: net.Socket[] = []

  private flush(e: Entry): void {
    if (this.cut || !e.socket || e.socket.destroyed) return
    for (const data of e.outbox.splice(0)) e.socket.write(data)
  }
}
