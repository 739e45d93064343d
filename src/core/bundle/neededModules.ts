import type { NodeFile } from '../nodefile/nodeFile'

/** Source text of the runtime by path below its folder: `main.py`, `vn/node.py` … */
export type RuntimeFiles = Readonly<Record<string, string>>

/** Modules of the runtime that only some node files need. */
const SOMETIMES: Record<string, (file: NodeFile) => boolean> = {
  'vn/guards.py': (f) => f.guards !== undefined || f.rules !== undefined,
  'vn/sleep.py': (f) => f.sleep !== undefined,
  'vn/warming.py': (f) => f.signals.some((s) => 'warmUpS' in s && (s.warmUpS ?? 0) > 0),
  'vn/last.py': (f) => f.signals.some((s) => 'atStart' in s && s.atStart === 'last'),
}

/** The files of the runtime this node file needs: what is always there, its drivers and chips, and what those import. */
export function neededModules(file: NodeFile, runtime: RuntimeFiles): string[] {
  const needed = new Set<string>()
  const take = (path: string) => {
    const source = runtime[path]
    if (source === undefined || needed.has(path) || SOMETIMES[path]?.(file) === false) return
    needed.add(path)
    for (const next of importsOf(source)) take(next)
  }
  take('main.py')
  for (const s of file.signals) {
    take(`vn/drivers/${s.driver}.py`)
    if (s.driver === 'i2c' || s.driver === 'converter') take(`vn/chips/${s.chip.replaceAll('-', '_')}.py`)
  }
  return [...needed].sort()
}

/** Modules in the order a board loads them for this file, each after what it imports. What is only loaded when it is needed is left out. */
export function loadOrder(file: NodeFile, runtime: RuntimeFiles): string[] {
  const order: string[] = []
  const take = (path: string) => {
    const source = runtime[path]
    if (source === undefined || order.includes(path)) return
    for (const next of importsOf(source, /^from (vn(?:\.\w+)*) import (.+)$/gm)) take(next)
    order.push(path)
  }
  take('vn/node.py')
  for (const [path, needed] of Object.entries(SOMETIMES)) if (needed(file)) take(path)
  for (const s of file.signals) {
    if (s.driver === 'i2c' || s.driver === 'converter') take(`vn/chips/${s.chip.replaceAll('-', '_')}.py`)
    take(`vn/drivers/${s.driver}.py`)
  }
  return order
}

function importsOf(source: string, imports = /^\s*from (vn(?:\.\w+)*) import (.+)$/gm): string[] {
  return [...source.matchAll(imports)].flatMap(([, from = '', names = '']) => {
    const path = from.replaceAll('.', '/')
    return [`${path}.py`, ...names.split(',').map((n) => `${path}/${n.trim()}.py`)]
  })
}
