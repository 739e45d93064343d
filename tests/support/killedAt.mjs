import fs from 'node:fs'

// Loaded before a program: ends it, as a kill does, just before it changes the file system for the KILLED_AT-th time in
// FOLDER.
const { KILLED_AT: at, FOLDER: folder } = process.env
let n = 0
for (const name of [
  'renameSync',
  'writeFileSync',
  'rmSync',
  'mkdirSync',
  'cpSync',
  'fsyncSync',
  'unlinkSync',
  'copyFileSync',
]) {
  const real = fs[name]
  fs[name] = (...given) => {
    // A flush names no file, only what is open.
    const here = typeof given[0] === 'number' || given.some((g) => typeof g === 'string' && g.startsWith(folder))
    if (here && ++n === Number(at)) process.kill(process.pid, 'SIGKILL')
    return real(...given)
  }
}
