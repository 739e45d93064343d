import { cautionsOf } from '../catalog/part'
import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../model/design'
import { railsOf } from '../power/rails'

export interface InstallStep {
  title: string
  text: string
  caution: boolean
}

/** Interpreter the runtime was made for, as this board needs it. */
const interpreterFor = (board: Board): string => `MicroPython ${board.interpreter.least} or later`

/** Stops somebody went on past, and who. */
export interface WentOn {
  by: string
  stops: readonly string[]
}

interface Installing {
  design: Design
  board: Board
  catalog: Catalog
  bundle: { name: string; withPasswords: boolean; past?: WentOn }
  /** Something it switches or measures is at mains voltage. */
  mains: boolean
  /** Names of radio receivers. */
  receivers: string[]
}
/** One step, or none where this node has nothing to do with it. */
type Step = (of: Installing) => InstallStep | null
const step = (title: string, text: string): InstallStep => ({ title, text, caution: false })
const caution = (title: string, text: string): InstallStep => ({ title, text, caution: true })

const mainsOff: Step = ({ mains }) =>
  mains
    ? caution(
        'Mains off and away',
        'Something this node switches or measures is at mains voltage. Switch it off at its breaker, see that it is dead, and disconnect it before a cable joins the board to a computer. Leave it disconnected until the last step. Work on mains is for licensed people; local codes come first.',
      )
    : null

const past: Step = ({ bundle }) =>
  bundle.past
    ? caution(
        'Stops stood against this design',
        `${bundle.past.stops.join(' ')} ${bundle.past.by} went on all the same: look at each before anything is connected.`,
      )
    : null

const oneSupply: Step = ({ design, board, catalog }) => {
  const feed = railsOf(design, board, catalog).find((r) => r.id === design.boardFeed)
  return feed
    ? caution(
        'One supply only',
        `The board is normally fed from ${feed.name}. Disconnect that while the cable is in: two supplies can drive current into each other.`,
      )
    : null
}

const receiverOff: Step = ({ receivers }) =>
  receivers.length > 0
    ? step(
        'Receiver off',
        `Switch ${receivers.join(' and ')} off, or pull its supply, while the board is written: what it hears all the time disturbs the writing.`,
      )
    : null

function strapsFree({ design, board }: Installing): InstallStep[] {
  const used = Object.values(design.plan.pins)
  return board.positions.flatMap((p) => {
    if (p.kind !== 'pin' || !p.strap || p.strap.level === 'any' || !used.includes(p.label)) return []
    const when = p.strap.when === 'every start' ? 'whenever the board starts' : 'while it is written'
    return [
      step(
        `${p.label} free`,
        `Something of this node is wired to ${p.label}, and that pin must be ${p.strap.level} ${when}. If writing does not begin, take that wire off until it is done.`,
      ),
    ]
  })
}

const cable: Step = ({ board }) => {
  if (board.usb === 'none')
    return caution(
      'Adapter',
      'This board has no USB. Take a serial adapter set to 3.3 V, never 5 V. Ground to ground first. The two data lines cross: the adapter’s TX goes to the board’s RX, its RX to the board’s TX. Feed the board from its own supply rather than from the adapter.',
    )
  const sockets = board.download?.twoSockets ? 'This board has two sockets: take the one marked USB. ' : ''
  const appears = board.download?.by === 'drive' ? 'A new board shows a drive; once the interpreter is on it, a' : 'A'
  const bridge =
    board.usb === 'serial bridge'
      ? '. Where none appears with a good cable, the driver of the board’s USB bridge is missing'
      : ''
  return step(
    'A cable with data wires',
    `Many cables only charge. ${sockets}${appears} port appears on the computer when cable and socket are right: list the serial ports before and after it goes in, and the new one is it (COM… on Windows, /dev/cu.usb… on macOS, /dev/ttyUSB… or /dev/ttyACM… on Linux, there for members of the group dialout or uucp)${bridge}.`,
  )
}

const untied: Step = ({ design, board: { wake } }) =>
  design.sleep && wake.tie
    ? step(
        `${wake.tie.from} and ${wake.tie.to} apart`,
        `The wire from ${wake.tie.from} to ${wake.tie.to} ends the sleep, and keeps the chip from being written. Take it off until the node has come, then put it on: without it the node sleeps once and for good.`,
      )
    : null

const comesAndGoes: Step = ({ board }) =>
  board.usb === 'native'
    ? step(
        'The port comes and goes',
        'This board’s USB is in the chip itself: its port goes away at each restart and comes back, sometimes under another name. A node that sleeps takes it along: hold the button while the cable goes in to get it back.',
      )
    : null

const download: Step = ({ board }) => (board.download ? step('Download mode', board.download.hold) : null)

const interpreter: Step = ({ board }) => {
  if (!board.download) return null
  const { image, at, baud } = board.interpreter
  return step(
    'The interpreter, once',
    board.download.by === 'drive'
      ? `A new board shows only a drive, and no port. Copy the image of ${interpreterFor(board)} onto it, a UF2 file for ${image}. The drive vanishes by itself, the board starts anew, and now there is a port.`
      : `Write the image of ${interpreterFor(board)} for ${image} from the Program bench (Write the board), or with bin/vivid write IMAGE PORT: it asks the chip which it is, refuses another one’s image, erases, writes to address ${at ?? '0x0'} at ${baud} baud and has it compared. Erasing clears old settings that would otherwise be kept.`,
  )
}

const node: Step = ({ bundle }) =>
  step(
    'The node',
    `bin/vivid install ${bundle.name} PORT — with the port from above in place of PORT. It interrupts whatever runs, holds the board at its prompt without a watchdog, writes every file, reads each back and compares its checksum, and starts the node. Cut short, the same again finishes it. A node that sleeps is knocked at until it wakes.${bundle.withPasswords ? '' : ' This bundle has no passwords: fill in secret.example.json and put it into the bundle as board/secret.json first. Under broker stand name and password of a login that may publish below this node’s name and hear its commands; under networks the access point’s name and password; key is 96 hexadecimal digits of chance, which seal later changes; n stays 0. bin/vivid complete does it: it asks a filled-in file, makes the key and writes the whole bundle.'}`,
  )

const receiverOn: Step = ({ receivers }) =>
  receivers.length > 0
    ? step('Receiver on', 'Give the receiver its supply back: without it the node stays deaf.')
    : null

const network: Step = () =>
  step(
    'Its network',
    'These boards hear 2.4 GHz alone, with WPA2. The access point stays on channels 1 to 11: on 12 and 13 many hear nothing unless their country is set.',
  )

const comes: Step = () =>
  step(
    'See it come',
    'Within half a minute the node says it is online, and the Program bench shows the revision it runs. If it does not: its start-up text on the same port says how far it came.',
  )

const mainsLast: Step = ({ mains }) =>
  mains
    ? caution(
        'Mains last',
        'Bring-up on the bench first, cover on, then whoever is licensed for it connects the mains again.',
      )
    : null

const fromNowOn: Step = () =>
  step(
    'From now on',
    'Changes go over the air: Send on the Program bench. The old file stays in force until the new one has started and connected. The cable is only needed when a node cannot be reached any more.',
  )

const AFTER_STRAPS = [cable, untied, comesAndGoes, download, interpreter, node, receiverOn, network, comes, mainsLast]

/** What to do, in order, to get this node onto this board for the first time, and how it goes afterwards. */
export function installSteps(
  design: Design,
  board: Board,
  catalog: Catalog,
  bundle: { name: string; withPasswords: boolean; past?: WentOn },
): InstallStep[] {
  const kinds = inOrder(design.parts).flatMap(({ value }) => {
    const kind = catalog.parts[value.kind]
    return kind ? [{ part: value, kind }] : []
  })
  const of: Installing = {
    design,
    board,
    catalog,
    bundle,
    mains: kinds.some(({ part, kind }) => cautionsOf(kind, part.settings).some((c) => c.caution.mains)),
    receivers: kinds
      .filter(({ kind }) => kind.channels.some((c) => c.driver === 'radio'))
      .map(({ part }) => part.label),
  }
  const those = (steps: readonly Step[]) => steps.map((s) => s(of)).filter((s) => s !== null)
  return [...those([past, mainsOff, oneSupply, receiverOff]), ...strapsFree(of), ...those([...AFTER_STRAPS, fromNowOn])]
}

/** The steps as a text file. */
export function stepsText(design: Design, board: Board, steps: readonly InstallStep[]): string {
  return [
    `${design.name} — ${board.name}`,
    '',
    ...steps.flatMap((s, i) => [`${i + 1}. ${s.title}${s.caution ? '  (caution)' : ''}`, `   ${s.text}`, '']),
    'Touch ground before you touch the chip. Work with the supply off where you can.',
    '',
  ].join('\n')
}
