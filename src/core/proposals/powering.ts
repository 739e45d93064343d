import type { EditBody } from '../edits/edit'
import type { Power } from './readWish'

/** How a node is fed, as edits, with what it gives beside the board. */
export interface Powering {
  edits: EditBody[]
  /** Rail of 12 V, or null where there is none. */
  v12: string | null
  words: string
  why: string
}

const add = (partId: string, part: string, label: string): EditBody => ({
  kind: 'add-part',
  partId,
  part,
  label,
  signals: [],
})
const feed = (partId: string, terminal: string, rail: string): EditBody => ({ kind: 'feed', partId, terminal, rail })

const CELLS: readonly [number, string, string][] = [
  [0.5, 'cell-pouch-500', 'Lithium cell 500 mAh'],
  [1, 'cell-pouch-1000', 'Lithium cell 1 000 mAh'],
  [2, 'cell-pouch-2000', 'Lithium cell 2 000 mAh'],
  [3, 'cell-18650', 'Lithium-ion cell 18650'],
]

interface Given {
  power: Power
  needs12V: boolean
  /** 12 V of an old panel that is there already. */
  panel: boolean
  /** AC terminal of something that is there already. */
  ac: string | null
  capacityAh: number | null
}

/** What feeds the node; everything on one supply where more than 5 V is needed, so that there is one to switch off. */
export function powering(given: Given): Powering {
  if (given.power === 'cell') return onCell(given)
  if (given.power === '24v-ac') return onAc(given)
  if (given.power === '12v' || given.needs12V) return on12V(given)
  if (given.power === '5v')
    return {
      edits: [add('psu', 'supply-5v', '5 V supply'), { kind: 'feed-board', rail: 'psu.out' }],
      v12: null,
      words: 'a certified 5 V supply, wired in',
      why: 'Nothing needs more than 5 V: one supply for all of it.',
    }
  return {
    edits: [],
    v12: null,
    words: 'a USB charger',
    why: 'A certified charger keeps the mains out of the box.',
  }
}

function on12V({ panel }: Given): Powering {
  const source = panel ? add('psu', 'panel-12v', 'Panel supply') : add('psu', 'supply-12v', '12 V supply')
  return {
    edits: [
      source,
      add('buck', 'converter-12-5', 'Step-down to 5 V'),
      feed('buck', 'vin', 'psu.out'),
      { kind: 'feed-board', rail: 'buck.out' },
    ],
    v12: 'psu.out',
    words: panel
      ? 'the panel’s own 12 V, stepped down for the board'
      : 'one certified 12 V supply, stepped down for the board',
    why: panel
      ? 'The sensors hang on it already, and its cell carries them through a power cut.'
      : 'One supply for board and loads: one fuse, one common ground, one thing to switch off.',
  }
}

function onAc({ ac, needs12V }: Given): Powering {
  const own = ac === null ? [add('psu', 'supply-24v-ac', 'Transformer')] : []
  return {
    edits: [
      ...own,
      add('brg', 'rectifier-bridge', 'Rectifier'),
      feed('brg', 'ac', ac ?? 'psu.out'),
      add('buck', 'converter-40-5', 'Step-down to 5 V'),
      feed('buck', 'vin', 'brg.out'),
      { kind: 'feed-board', rail: 'buck.out' },
    ],
    // Rectified 24 V AC reaches 40 V: what wants 12 V is not hung on it.
    v12: null,
    words: 'the 24 V AC that is there, rectified and stepped down',
    why: `Rectified it stands near 34 V and more when idle: the converter stands 40 V${needs12V ? '; parts for 12 V need a supply of their own' : ''}.`,
  }
}

function onCell({ capacityAh, needs12V }: Given): Powering {
  const wanted = capacityAh ?? 2
  const [, kind, label] = CELLS.find(([ah]) => ah >= wanted) ?? CELLS[CELLS.length - 1] ?? [0, 'cell-18650', 'Cell']
  return {
    edits: [add('cell', kind, label), { kind: 'feed-board', rail: 'cell.p' }],
    v12: null,
    words: `a ${label.charAt(0).toLowerCase()}${label.slice(1)}`,
    why: `No wire but its own.${needs12V ? ' Parts for 12 V cannot live on it.' : ''}`,
  }
}
