import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { Design } from '../model/design'
import { canonicalJson } from '../hash/canonicalJson'
import { sha256Hex } from '../hash/sha256Hex'
import type { Compiled } from '../nodefile/compile'
import { drawSheets } from '../wiring/drawing'
import { drawingSvg } from '../wiring/drawingSvg'
import { wiringOf } from '../wiring/netlist'
import { scheduleCsv, scheduleOf } from '../wiring/schedule'
import { type WentOn, installSteps, stepsText } from './installSteps'
import { neededModules, type Runtime } from './neededModules'

/** The credentials file of a board: its login, its networks by short name, and its own key. */
export interface Secret {
  broker: { name: string; password: string }
  networks: Record<string, { name: string; password: string }[]>
  key: string
  n: number
}

/** Files by path: texts, and compiled modules in bytes. */
export interface Bundle {
  name: string
  files: Record<string, string | Uint8Array>
}

/** Folder of a bundle whose content goes onto the board as it is. */
export const ON_BOARD = 'board/'

/**
 * Everything one installation needs, by path: the board's files below `board/`, the steps, the wiring sheet, checksums.
 * The name says which revision it is and whether passwords are inside. Throws nothing; the same input gives the same
 * bytes.
 */
export function bundleFiles(
  { design, catalog, board }: { design: Design; catalog: Catalog; board: Board },
  compiled: Compiled,
  runtime: Runtime,
  { secret, past }: { secret: Secret | null; past?: WentOn | undefined },
): Bundle {
  const { file, text, td } = compiled
  const name = `${design.slug}-r${file.revision}${secret ? '-with-passwords' : ''}.zip`
  const example: Secret = {
    broker: { name: `node-${design.slug}`, password: '…' },
    networks: { [design.network.ref]: [{ name: '…', password: '…' }] },
    key: '…',
    n: 0,
  }
  const wiring = wiringOf(design, catalog)
  const modules = neededModules(file, runtime.sources, board.interpreter.chip).map((path) =>
    path.replace(/(?<!main)\.py$/, '.mpy'),
  )
  const files: Bundle['files'] = {
    ...Object.fromEntries(modules.map((path) => [ON_BOARD + path, runtime.compiled[path] ?? ''])),
    [`${ON_BOARD}node.json`]: text,
    [`${ON_BOARD}td.json`]: canonicalJson(td),
    ...(secret
      ? { [`${ON_BOARD}secret.json`]: JSON.stringify(secret) }
      : { 'secret.example.json': `${JSON.stringify(example, null, 2)}\n` }),
    'INSTALL.txt': stepsText(
      design,
      board,
      installSteps(design, board, catalog, { name, withPasswords: secret !== null, ...(past ? { past } : {}) }),
    ),
    'wires.csv': scheduleCsv(design, wiring),
    'wiring.html': sheet(design, catalog, board),
  }
  files.SHA256SUMS = Object.entries(files)
    .map(([path, content]) => `${sha256Hex(content)}  ${path}\n`)
    .sort((a, b) => (a.slice(66) < b.slice(66) ? -1 : 1))
    .join('')
  return { name, files }
}

const escaped = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')

/** Schedule and drawing on one page that opens anywhere and prints black and white. */
function sheet(design: Design, catalog: Catalog, board: Board): string {
  const wiring = wiringOf(design, catalog)
  const rows = scheduleOf(design, wiring).map(
    (r) =>
      `<tr><td>W${r.number}</td><td><b>${escaped(r.tag)}</b></td><td>${escaped(r.from)}</td><td>${escaped(r.to)}</td><td>${escaped(r.insulation)}</td><td>${r.gaugeMm2}</td><td>${escaped(r.note)}</td></tr>`,
  )
  const drawings = drawSheets(design, catalog, board, wiring, 1120).map((d) =>
    drawingSvg(d, `Wiring of ${design.name}`, () => '#222', { font: 'sans-serif', mono: 'monospace' }),
  )
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${escaped(design.name)}: wiring</title>
<style>body{font:14px sans-serif;margin:24px;max-width:960px}table{border-collapse:collapse}td,th{border-bottom:1px solid #bbb;padding:3px 10px 3px 0;text-align:left}svg{max-width:100%;height:auto}</style>
<h1>${escaped(design.name)}</h1><p>${escaped(board.name)}. Supply off while you wire; measure before the chip goes in. Work on mains is for licensed people; local codes come first.</p>
<table><thead><tr><th>no.</th><th>tag</th><th>from</th><th>to</th><th>insulation</th><th>mm²</th><th>note</th></tr></thead><tbody>${rows.join('')}</tbody></table>
${drawings.join('\n')}</html>
`
}
