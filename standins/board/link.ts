import net from 'node:net'

/** `ended` is a clean close from the far side, `reset` a broken one. */
export type SocketState = 'new' | 'connecting' | 'open' | 'refused' | 'reset' | 'ended'

interface Entry { state: SocketState; socket: net.Socket | null; inbox: Buffer[]; outbox: Buffer[] }

/** Bytes a small board holds for sending before it says “later”. */
const SEND_ROOM = 2048
/** A board sees what arrives in pieces of about one radio frame. */
const PIECE = 536

/**
 * The board's sockets on real TCP. While the link is cut nothing passes in either direction and nobody is told:
 * connections stay open at both ends and go silent, as they do when an antenna comes off.
 */
export class Link {
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
    const socket = net.connect({ host, port })
    e.socket = socket
    socket.on('connect', () => { e.state = 'open' })
    socket.on('data', (data) => { e.inbox.push(data) })
    socket.on('end', () => { e.state = 'ended' })
    socket.on('error', () => { e.state = e.state === 'connecting' ? 'refused' : 'reset' })
    socket.on('close', () => { if (e.state === 'open') e.state = 'reset' })
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
    this.flush(e)
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
    else e.socket.end()
    if (this.cut) this.orphans.push(e.socket)
  }

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
