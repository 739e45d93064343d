import fs from 'node:fs'

// Loaded before a program: while the file DISK_FULL names is there, the disk has no room for anything more in the
// folder FULL_ROOT; with “failing” in that file it cannot flush either.
const { DISK_FULL: flag, FULL_ROOT: root } = process.env
const real = { ...fs }
const inside = new Set()
const failing = () => real.existsSync(flag) && real.readFileSync(flag, 'utf8') === 'failing'
const full = () => real.existsSync(flag) && !failing()
const none = () => Object.assign(new Error('ENOSPC: no space left on device'), { code: 'ENOSPC', errno: -28 })

fs.openSync = (file, ...rest) => {
  const fd = real.openSync(file, ...rest)
  if (typeof file === 'string' && file.startsWith(root)) inside.add(fd)
  else inside.delete(fd)
  return fd
}
fs.writeSync = (fd, bytes, offset, length, at) => {
  // What is there already may be written again; what would make the file longer finds no room.
  if (inside.has(fd) && full() && (typeof at !== 'number' || at + length > real.fstatSync(fd).size)) throw none()
  return real.writeSync(fd, bytes, offset, length, at)
}
fs.fsync = (fd, done) =>
  failing()
    ? void setImmediate(done, Object.assign(new Error('EIO: i/o error'), { code: 'EIO' }))
    : real.fsync(fd, done)
fs.cpSync = (from, to, ...rest) => {
  if (full()) throw none()
  return real.cpSync(from, to, ...rest)
}
