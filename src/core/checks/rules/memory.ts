import { NO_SURROUNDINGS } from '../../surroundings/surroundings'
import { mostOf, needOf } from '../../bundle/memoryNeed'
import { compile } from '../../nodefile/compile'
import { DEFAULT_ROOT } from '../../publish/topics'
import { report, type Rule } from '../context'

/**
 * What has to stay free for what comes and goes: packets, pieces of files, the collector's crumbs; a share of the
 * whole.
 */
const SPARE = 0.05
const BROKER = { host: '192.0.2.1', port: 1883, root: DEFAULT_ROOT, secure: { port: 8883, print: '0'.repeat(64) } }

/** Runtime, drivers and node file against what the interpreter leaves free on this board. */
export const memory: Rule = {
  id: 'memory',
  severity: 'stop',
  when: 'Runtime, drivers and node file together need more memory than is free on this board.',
  source:
    'Memory at the prompt of the interpreter on this class of board; modules and signals measured in the interpreter itself.',
  check: ({ design, catalog, board }) => {
    const { heapB, tls } = board.interpreter
    const secureB = design.network.secure ? (tls?.heapB ?? 0) : 0
    const limit = heapB * (1 - SPARE)
    // Most boards have room for whatever a design of this size could be.
    if (mostOf(Object.keys(design.signals).length, secureB) <= limit) return []
    // An unfinished design has no file yet; what it lacks is told elsewhere.
    const made = compile(design, NO_SURROUNDINGS, catalog, BROKER, 1)
    if (!made.ok) return []
    const need = needOf(made.compiled.file, board.interpreter.chip, secureB)
    if (need.totalB <= limit) return []
    const kib = (b: number) => `${(b / 1024).toFixed(1)} KiB`
    const stops = need.totalB > heapB
    return [
      report('node', {
        severity: stops ? 'stop' : 'fix',
        bench: 'program',
        sentence: stops
          ? `The program of this node needs about ${kib(need.totalB)}, and this board has ${kib(heapB)} free: it would not start.`
          : `The program of this node needs about ${kib(need.totalB)} of ${kib(heapB)}: too little is left for what comes and goes.`,
        steps: [
          {
            gives: 'modules',
            formula: 'Σ module, precompiled and loaded',
            numbers: `${need.modules} modules`,
            result: kib(need.modulesB),
          },
          {
            gives: 'signals',
            formula: 'Σ running signal',
            numbers: `${made.compiled.file.signals.length} signals`,
            result: kib(need.signalsB),
          },
          {
            gives: 'file',
            formula: 'while it is read, the text and what it says',
            numbers: `${made.compiled.text.length} bytes`,
            result: kib(need.fileB),
          },
          {
            gives: 'need',
            formula: 'modules + signals + file, and what is kept',
            numbers: '',
            result: kib(need.totalB),
          },
        ],
        remedies: [],
      }),
    ]
  },
}
