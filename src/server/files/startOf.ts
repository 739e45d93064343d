import fs from 'node:fs'

/**
 * Start time of a process as the kernel counts it; where there is no /proc, whether it lives at all. Null when it is
 * gone.
 */
export function startOf(pid: number): string | null {
  try {
    const stat = fs.readFileSync(`/proc/${pid}/stat`, 'utf8')
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    // One that has ended and that nobody has asked about yet still has an entry.
    return fields[0] === 'Z' || fields[0] === 'X' ? null : (fields[19] ?? null)
  } catch {
    if (fs.existsSync('/proc/self/stat')) return null
  }
  try {
    process.kill(pid, 0)
    return 'alive'
  } catch {
    return null
  }
}
