import fs from 'node:fs'
import os from 'node:os'
import path from 'node:path'
import { strToU8, zipSync } from 'fflate'
import type { Bundle } from '../../core/bundle/bundleFiles'
import { type Chip, isSmall } from '../../core/bundle/chipClass'
import type { Runtime, RuntimeFiles } from '../../core/bundle/neededModules'

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

/** The runtime's sources and what the build has compiled from them. */
export function readRuntime(project: string, chip: Chip): Runtime {
  const compiled: Record<string, Uint8Array> = {}
  const dir = path.join(project, isSmall(chip) ? 'build/device-small' : 'build/device')
  for (const name of fs.readdirSync(dir, { recursive: true, encoding: 'utf8' }))
    if (/\.m?py$/.test(name))
      compiled[name.replaceAll(path.sep, '/')] = new Uint8Array(fs.readFileSync(path.join(dir, name)))
  return { sources: runtimeFiles(path.join(project, 'device')), compiled }
}

/** Addresses under which this machine can be reached from its networks. */
export function ownAddresses(): string[] {
  return Object.values(os.networkInterfaces()).flatMap((all) =>
    (all ?? []).flatMap((a) => (a.family === 'IPv4' && !a.internal ? [a.address] : [])),
  )
}

/** Why a board could not reach this broker address, and what to do; null when it can be tried. */
export function unreachable(host: string): string | null {
  if (!/^(localhost|127\.|0\.0\.0\.0$|::1?$|\[)/.test(host)) return null
  const own = ownAddresses()
  const here =
    own.length === 0 ? 'This machine has no address in a network now.' : `This machine has ${own.join(' and ')}.`
  return `A real board cannot reach the broker at ${host}: that is the board itself. ${here}`
}

/** The bundle as one zip; the same bundle gives the same bytes. */
export function zipOf({ files }: Bundle): Uint8Array {
  const entries = Object.keys(files)
    .sort()
    .map((name) => [name, [bytesOf(files[name] ?? ''), { mtime: new Date(2020, 0, 1) }]] as const)
  return zipSync(Object.fromEntries(entries) as Parameters<typeof zipSync>[0], { level: 9 })
}

const bytesOf = (content: string | Uint8Array) => (typeof content === 'string' ? strToU8(content) : content)
