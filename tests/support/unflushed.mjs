import fs from 'node:fs'
import path from 'node:path'

// Loaded before a program: keeps, beside a folder, what a disk would have of it if the power went now. A file has what
// was in it when it was flushed last, a directory the entries it had when it was flushed last; everything else is gone.
// Knows nothing of who writes.

const root = process.env.CUT_ROOT
const disk = process.env.CUT_DISK
const real = { ...fs }
const open = new Map() // descriptor → what is written through it since the last flush
const inside = (file) => typeof file === 'string' && (file === root || file.startsWith(root + path.sep))
// An inode's number is given to another file once it is free: with its birth it is one of a kind.
const idOf = (s) => `${s.ino}-${s.birthtimeNs}`
const stat = (file) => real.lstatSync(file, { bigint: true })
const dirty = new Map() // file → byte ranges written since its last flush

function flushed(fd, ranges) {
  const s = real.fstatSync(fd, { bigint: true })
  const id = idOf(s)
  if (s.isDirectory()) {
    const at = real.readlinkSync(`/proc/self/fd/${fd}`)
    if (!inside(at)) return
    const entries = real.readdirSync(at, { withFileTypes: true }).flatMap((e) => {
      const of = stat(path.join(at, e.name))
      return of ? [[e.name, idOf(of), of.isDirectory()]] : []
    })
    const file = path.join(disk, 'folders', at === root ? 'root' : id)
    real.writeFileSync(`${file}.part`, JSON.stringify(entries))
    return real.renameSync(`${file}.part`, file)
  }
  const at = real.readlinkSync(`/proc/self/fd/${fd}`)
  if (!inside(at)) return
  const kept = path.join(disk, 'files', id)
  const from = real.openSync(`/proc/self/fd/${fd}`, 'r')
  const whole = !real.existsSync(kept)
  const to = real.openSync(kept, whole ? 'w' : 'r+')
  for (const [a, b] of whole ? [[0, Number(s.size)]] : ranges) {
    const bytes = Buffer.alloc(b - a)
    const n = real.readSync(from, bytes, 0, b - a, a)
    real.writeSync(to, bytes, 0, n, a)
  }
  real.ftruncateSync(to, Number(s.size))
  real.closeSync(from)
  real.closeSync(to)
}

const take = (fd) => {
  const id = open.get(fd)
  const ranges = dirty.get(id) ?? []
  dirty.delete(id)
  return ranges
}

if (root && disk) {
  real.mkdirSync(path.join(disk, 'files'), { recursive: true })
  real.mkdirSync(path.join(disk, 'folders'), { recursive: true })
  fs.openSync = (file, ...rest) => {
    const fd = real.openSync(file, ...rest)
    if (inside(file)) open.set(fd, idOf(real.fstatSync(fd, { bigint: true })))
    return fd
  }
  fs.closeSync = (fd) => {
    open.delete(fd)
    return real.closeSync(fd)
  }
  fs.writeSync = (fd, bytes, offset, length, at) => {
    const n = real.writeSync(fd, bytes, offset, length, at)
    const id = open.get(fd)
    if (id !== undefined && typeof at === 'number') dirty.set(id, [...(dirty.get(id) ?? []), [at, at + n]])
    return n
  }
  fs.write = (fd, bytes, offset, length, at, done) =>
    real.write(fd, bytes, offset, length, at, (e, n) => {
      const id = open.get(fd)
      if (!e && id !== undefined && typeof at === 'number') dirty.set(id, [...(dirty.get(id) ?? []), [at, at + n]])
      done(e, n)
    })
  fs.fsyncSync = (fd) => {
    real.fsyncSync(fd)
    flushed(fd, take(fd))
  }
  fs.fsync = (fd, done) => {
    const ranges = take(fd)
    real.fsync(fd, (e) => {
      if (!e) flushed(fd, ranges)
      done(e)
    })
  }
  fs.fdatasync = fs.fsync
  const write = fs.writeFileSync
  fs.writeFileSync = (file, data, how) => {
    write(file, data, how)
    if (!inside(file) || typeof how !== 'object' || !how?.flush) return
    const fd = real.openSync(file, 'r')
    flushed(fd, [[0, Number(real.fstatSync(fd).size)]])
    real.closeSync(fd)
  }
}
