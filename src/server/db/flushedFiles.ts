import fs from 'node:fs'
import path from 'node:path'
import { NodeFS } from '@electric-sql/pglite/nodefs'
import { flushFile, isCode } from '../files/flush'

interface FsNode {
  name: string
  parent: FsNode
}
interface Stream {
  path?: string
  node: FsNode
  nfd?: number
  shared: { refcount: number }
}
type Call<A extends unknown[], R> = (...args: A) => R
type Operations = Record<string, Call<unknown[], unknown>>
interface Engine {
  FS: { ErrnoError: new (errno: number) => Error }
  NODEFS: { realPath(node: FsNode): string; stream_ops: Operations; node_ops: Operations }
}

/** EIO and ENOSPC as the engine numbers them. */
const ERRNO = { io: 29, full: 51 } as const
const LOG = '/pg_wal/'

/**
 * The database's files, with a flush that reaches the disk: the engine's own ends in the layer below it, which has
 * none.
 *
 * What the engine flushes is flushed at once, but for the write-ahead log: that is flushed by `flushed`, once for all
 * the transactions that have ended meanwhile, while the engine goes on. Nothing else is written, renamed, cut or
 * removed before the log it follows from is on the disk, so that what a power cut leaves is a state the engine recovers
 * from.
 */
export class FlushedFiles extends NodeFS {
  /** Log files with writes that the engine has asked to flush, by descriptor. */
  private waiting = new Set<number>()
  /** Those being flushed while the engine goes on. */
  private flying = new Set<number>()
  /** Files whose entry in their directory may not be on the disk yet. */
  private fresh = new Set<string>()
  private running: Promise<void> | null = null
  private next: Promise<void> | null = null

  override async init(...[pg, opts]: Parameters<NodeFS['init']>): ReturnType<NodeFS['init']> {
    const made = await super.init(pg, opts)
    const before = made.emscriptenOpts.preRun ?? []
    const mend = (engine: unknown) => this.mend(engine as Engine)
    return { emscriptenOpts: { ...made.emscriptenOpts, preRun: [...before, mend] as typeof before } }
  }

  /** Kept when all that has been asked to be flushed so far is on the disk. */
  flushed(): Promise<void> {
    if (this.waiting.size === 0) return this.running ?? Promise.resolve()
    // A flush that has begun may not cover what was written since: the next one does, for everybody who comes before
    // it.
    this.next ??= (this.running ?? Promise.resolve()).then(() => {
      this.next = null
      this.running = this.flushLog().finally(() => {
        this.running = null
      })
      return this.running
    })
    return this.next
  }

  private async flushLog(): Promise<void> {
    const now = [...this.waiting]
    this.flying = this.waiting
    this.waiting = new Set()
    await Promise.all(
      now.map(
        (fd) =>
          new Promise<void>((done, failed) => {
            // One that was closed meanwhile has been flushed as it was.
            fs.fsync(fd, (e) => (e && !isCode(e, 'EBADF') ? failed(e) : done()))
          }),
      ),
    )
    this.flying.clear()
  }

  /** The log first, here and now. */
  private settle(): void {
    for (const fd of [...this.waiting, ...this.flying]) fs.fsyncSync(fd)
    this.waiting.clear()
    this.flying.clear()
  }

  private mend({ FS, NODEFS }: Engine): void {
    const real = (node: unknown) => NODEFS.realPath(node as FsNode)
    const guarded = <T>(act: () => T): T => {
      try {
        return act()
      } catch (e) {
        throw e instanceof FS.ErrnoError ? e : new FS.ErrnoError(isCode(e, 'ENOSPC') ? ERRNO.full : ERRNO.io)
      }
    }
    const isLog = (s: Stream) => real(s.node).includes(LOG)
    const { stream_ops: streams, node_ops: nodes } = NODEFS
    const { write, close } = streams
    streams.fsync = (given) =>
      guarded(() => {
        const s = given as Stream
        if (s.nfd !== undefined && isLog(s)) {
          this.waiting.add(s.nfd)
          return 0
        }
        this.settle()
        if (s.nfd === undefined) flushFile(real(s.node))
        else fs.fsyncSync(s.nfd)
        const at = real(s.node)
        if (this.fresh.delete(at)) flushFile(path.dirname(at))
        return 0
      })
    streams.write = (...args) =>
      guarded(() => {
        if (this.waiting.size + this.flying.size > 0 && !isLog(args[0] as Stream)) this.settle()
        return write?.(...args)
      })
    streams.close = (given) =>
      guarded(() => {
        const s = given as Stream
        const last = s.nfd !== undefined && s.shared.refcount === 1 ? s.nfd : null
        if (last !== null && (this.waiting.has(last) || this.flying.has(last))) {
          fs.fsyncSync(last)
          this.waiting.delete(last)
          this.flying.delete(last)
        }
        return close?.(given)
      })
    for (const name of ['mknod', 'rename', 'unlink', 'rmdir', 'setattr'] as const) {
      const act = nodes[name]
      nodes[name] = (...args) =>
        guarded(() => {
          this.settle()
          const made = act?.(...args)
          if (name === 'mknod') this.fresh.add(real(made))
          return made
        })
    }
  }
}
