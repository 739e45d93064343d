import fs from 'node:fs'
import path from 'node:path'
import { strToU8, zipSync } from 'fflate'
import type { Bundle } from '../../core/bundle/bundleFiles'
import type { RuntimeFiles } from '../../core/bundle/neededModules'

/** Source of the runtime, `main.py` and everything below `vn/`, by path below its folder. */
export function runtimeFiles(deviceDir: string): RuntimeFiles {
  const out: Record<string, string> = {}
  const walk = (dir: string, at: string) => {
    for (const entry of fs.readdirSync(dir, { withFileTypes: true })) {
      if (entry.isDirectory()) walk(path.join(dir, entry.name), `${at}${entry.name}/`)
      else if (entry.name.endsWith('.py')) out[at + entry.name] = fs.readFileSync(path.join(dir, entry.name), 'utf8')
    }
  }
  walk(deviceDir, '')
  return out
}

/** The bundle as one zip; the same bundle gives the same bytes. */
export function zipOf({ files }: Bundle): Uint8Array {
  const entries = Object.keys(files).sort().map((name) => [name, [strToU8(files[name] ?? ''), { mtime: new Date(2020, 0, 1) }]] as const)
  return zipSync(Object.fromEntries(entries) as Parameters<typeof zipSync>[0], { level: 9 })
}
