import type { AddedComponent, Design } from './design'
import type { EditBody } from './edit'

/**
 * What an edit does, in a few words, for undo and history: `median 3 → 5 on L1`. `design` is the one before the edit.
 */
export function editWords(edit: EditBody, design: Design): string {
  const part = (id: string) => design.parts[id]?.label ?? 'a part'
  const tag = (id: string) => design.signals[id]?.tag ?? 'a signal'
  switch (edit.kind) {
    case 'add-part':
      return `add ${edit.label}`
    case 'remove-part':
      return `remove ${part(edit.partId)}`
    case 'rename-part':
      return `rename ${part(edit.partId)} to ${edit.label}`
    case 'set-part':
      return `${edit.setting} ${design.parts[edit.partId]?.settings[edit.setting] ?? ''} → ${edit.value} on ${part(edit.partId)}`
    case 'feed':
      return edit.rail === null
        ? `take ${edit.terminal} of ${part(edit.partId)} off`
        : `join ${edit.terminal} of ${part(edit.partId)} to ${edit.rail}`
    case 'add-signal':
      return `add a signal of ${part(edit.partId)}`
    case 'remove-signal':
      return `remove ${tag(edit.signalId)}`
    case 'rename-signal':
      return `name ${tag(edit.signalId)} ${edit.name}`
    case 'condition':
      return `${fieldWords(design.signals[edit.signalId]?.conditioning ?? {}, edit.set, tag)} on ${tag(edit.signalId)}`
    case 'publish':
      return `${fieldWords(design.signals[edit.signalId]?.publish ?? {}, edit.set)} on ${tag(edit.signalId)}`
    case 'calibrate':
      return edit.calibration ? `calibrate ${tag(edit.signalId)}` : `drop the calibration of ${tag(edit.signalId)}`
    case 'choose-board':
      return `change the board to ${edit.board}`
    case 'identify':
      return `name the node ${edit.name}`
    case 'copy-part':
      return `copy ${part(edit.partId)} as ${edit.label}`
    case 'gather':
      return `gather ${edit.partIds.length} parts into ${edit.label}`
    case 'set-bus':
      return `put ${part(edit.partId)} on ${edit.bus === null ? 'its usual bus' : edit.bus === 'own' ? 'a line of its own' : `bus ${edit.bus.toUpperCase()}`}`
    case 'sleep':
      return edit.everyS === null ? 'never sleep' : `wake every ${edit.everyS} s`
    case 'set-rule':
      return edit.rule === null
        ? 'drop a local rule'
        : `${tag(edit.rule.from)} acts on ${tag(edit.rule.to)}${edit.rule.works === 'always' ? '' : `, ${edit.rule.works}`}`
    case 'set-guard':
      return edit.guard === null
        ? 'drop a guard'
        : edit.guard.kind === 'needs'
          ? `${tag(edit.guard.output)} only while ${tag(edit.guard.input)} is ${edit.guard.is ? 'on' : 'off'}`
          : `never together: ${edit.guard.of.map(tag).join(', ')}`
    case 'connect':
      return `network ${edit.ref}, address ${edit.address === 'fixed' ? (edit.fixed?.ip ?? 'fixed') : `by ${edit.address}`}`
    case 'set-cost':
      return `cost of ${edit.item} ${edit.cost ?? 'as in the catalogue'}`
    case 'lock':
      return `lock a line to ${edit.pin}`
    case 'unlock':
      return 'unlock a line'
    case 'keep-free':
      return edit.free ? `keep ${edit.pin} free` : `give ${edit.pin} back`
    case 'accept-plan':
      return 'accept the plan'
    case 'add-component':
      return `add ${COMPONENT_WORDS[edit.component.type]} ${edit.component.names.join(', ')}`
    case 'remove-component':
      return `remove ${design.added[edit.componentId]?.names.join(', ') ?? 'a component'}`
    case 'set-wire':
      return `${fieldWords(design.wires[edit.wire] ?? {}, edit.set)} on W${design.wires[edit.wire]?.number ?? ''}`
    case 'place-part':
      return `${fieldWords(design.parts[edit.partId] ?? {}, edit.set)} of ${part(edit.partId)}`
    case 'record-found':
      return edit.found === null
        ? `forget how ${part(edit.partId)} was found`
        : `record how ${part(edit.partId)} was found`
    case 'feed-board':
      return edit.rail === null ? 'feed the board by USB' : `feed the board from ${edit.rail}`
    case 'made-otherwise':
      return `a wire was made to ${edit.pin}`
    case 'mark-wire':
      return `mark W${design.wires[edit.wire]?.number ?? ''} ${edit.made ? 'made' : 'not made'}`
    case 'revert':
      return `take back: ${edit.of}`
  }
}

export const COMPONENT_WORDS: Record<AddedComponent['type'], string> = {
  divider: 'a divider',
  pull: 'a pull resistor',
  series: 'a series resistor',
  capacitor: 'a capacitor',
  clamp: 'a suppressor diode',
  diode: 'a diode across the coil',
  driver: 'a transistor',
  optocoupler: 'an optocoupler',
  shifter: 'a level shifter',
  fuse: 'a fuse',
  bulk: 'a capacitor at the rail',
  'feed-diode': 'a diode in the feed of the board',
  bias: 'a middle voltage',
  burden: 'a burden',
  quench: 'a quench across a load',
}

const NAMES: Record<string, string> = {
  cableM: 'cable, m',
  rom: 'address',
  gaugeMm2: 'gauge, mm²',
  averageS: 'average',
  mountM: 'mounting height',
  debounceMs: 'debounce',
  longestOnS: 'longest on',
  pulseS: 'pulse',
  holdS: 'hold',
  patterns: 'presses',
  atStart: 'at power-up',
  gapMs: 'gap',
  longMs: 'long press',
  intervalS: 'interval',
}

const words = (value: unknown): string => (Array.isArray(value) ? value.join(', ') : String(value ?? '–'))

/** `tag` names a signal that a field points to. */
function fieldWords(
  before: Record<string, unknown>,
  set: Record<string, unknown>,
  tag: (id: string) => string = String,
): string {
  const told = (key: string, value: unknown) =>
    key === 'follows' && typeof value === 'string' ? tag(value) : words(value)
  return Object.entries(set)
    .map(([key, value]) => `${NAMES[key] ?? key} ${told(key, before[key])} → ${told(key, value)}`)
    .join(', ')
}
