import type { NodeFile } from '../nodefile/nodeFile'
import table from './moduleHeap.json'
import { type Chip, isSmall } from './chipClass'
import { loadOrder } from './neededModules'

export interface MemoryNeed {
  modules: number
  modulesB: number
  signalsB: number
  fileB: number
  totalB: number
}

const MODULES: Record<string, { heapB: number; smallB: number; imports: string[] }> = table.modules
const SIGNALS: Record<string, number> = table.signals
const DEAREST = Math.max(...Object.values(SIGNALS))
/** Connection, network, waiting messages, and the one passing module that is there at a time, bytes. */
const RUNNING_B = table.runningB
/** Table of the names a node brings: 10, 20, 40 … 320 entries of a pointer, a hash and a length each, bytes. */
const NAMES_B = 630 * 6
/** Text of the file and what it says stand side by side while it is read: about so many bytes for each of its own. */
const READ_FACTOR = table.readFactor

/** Modules that are loaded for one use and given back. */
const ONCE =
  /^vn\/(arrive|change|clock|close|command|config|find|health|join|late|load|login|lookup|offs|past|pieces|rx|secure|vault)\.py$/
const EVERY_MODULE_B = Object.entries(MODULES).reduce((sum, [path, m]) => sum + (ONCE.test(path) ? 0 : m.heapB), 0)

/** No node of so many signals needs more than this, bytes: every driver there is, and the dearest signal each time. */
export function mostOf(signals: number, extraB = 0): number {
  return EVERY_MODULE_B + signals * (DEAREST + 200 * READ_FACTOR) + RUNNING_B + NAMES_B + extraB
}

/**
 * Heap a node takes on its board, bytes: modules as they are loaded precompiled, running signals, and the file while it
 * is read, of which the signals' part is given back before they all run. Measured in the interpreter (`npm run heap`);
 * within 5 % of the most that was in use at a time in the hard-limited runs of two demo nodes.
 */
export function needOf(file: NodeFile, chip: Chip, extraB = 0): MemoryNeed {
  const order = loadOrder(file, (path) => MODULES[path]?.imports, chip)
  const modulesB = order.reduce((sum, path) => sum + (MODULES[path]?.[isSmall(chip) ? 'smallB' : 'heapB'] ?? 0), 0)
  const signalsB = file.signals.reduce((sum, s) => sum + (SIGNALS[s.driver] ?? DEAREST), 0)
  const fileB = Math.round(JSON.stringify(file).length * READ_FACTOR)
  // Signals grow while their entries of the file go: the larger of the two, and a third of the smaller for where they
  // overlap.
  const both = Math.max(fileB, signalsB) + Math.min(fileB, signalsB) / 3
  return {
    modules: order.length,
    modulesB,
    signalsB,
    fileB,
    totalB: Math.round(modulesB + both + RUNNING_B + NAMES_B + extraB),
  }
}
