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

/** What to do, in order, to get this node onto this board for the first time, and how it goes afterwards. */
export function installSteps(
  design: Design,
  board: Board,
  catalog: Catalog,
  bundle: { name: string; withPasswords: boolean },
): InstallStep[] {
  const out: InstallStep[] = []
  const say = (title: string, text: string, caution = false) => out.push({ title, text, caution })
  const kinds = inOrder(design.parts).flatMap(({ value }) => {
    const kind = catalog.parts[value.kind]
    return kind ? [{ part: value, kind }] : []
  })
  const mains = kinds.some(({ part, kind }) => cautionsOf(kind, part.settings).some(({ caution }) => caution.mains))
  if (mains)
    say(
      'Mains off and away',
      'Something this node switches or measures is at mains voltage. Switch it off at its breaker, see that it is dead, and disconnect it before a cable joins the board to a computer. Leave it disconnected until the last step. Work on mains is for licensed people; local codes come first.',
      true,
    )
  const feed = railsOf(design, board, catalog).find((r) => r.id === design.boardFeed)
  if (feed)
    say(
      'One supply only',
      `The board is normally fed from ${feed.name}. Disconnect that while the cable is in: two supplies can drive current into each other.`,
      true,
    )
  const receivers = kinds.filter(({ kind }) => kind.channels.some((c) => c.driver === 'radio'))
  if (receivers.length > 0)
    say(
      'Receiver off',
      `Switch ${receivers.map(({ part }) => part.label).join(' and ')} off, or pull its supply, while the board is written: what it hears all the time disturbs the writing.`,
    )
  for (const p of board.positions) {
    if (p.kind === 'pin' && p.strap && p.strap.level !== 'any' && Object.values(design.plan.pins).includes(p.label))
      say(
        `${p.label} free`,
        `Something of this node is wired to ${p.label}, and that pin must be ${p.strap.level} ${p.strap.when === 'every start' ? 'whenever the board starts' : 'while it is written'}. If writing does not begin, take that wire off until it is done.`,
      )
  }
  if (board.usb === 'none') {
    say(
      'Adapter',
      'This board has no USB. Take a serial adapter set to 3.3 V, never 5 V. Ground to ground first. The two data lines cross: the adapter’s TX goes to the board’s RX, its RX to the board’s TX. Feed the board from its own supply rather than from the adapter.',
      true,
    )
  } else {
    say(
      'A cable with data wires',
      `Many cables only charge. ${board.download?.twoSockets ? 'This board has two sockets: take the one marked USB. ' : ''}${board.download?.by === 'drive' ? 'A new board shows a drive; once the interpreter is on it, a' : 'A'} port appears on the computer when cable and socket are right: list the serial ports before and after it goes in, and the new one is it (COM… on Windows, /dev/cu.usb… on macOS, /dev/ttyUSB… or /dev/ttyACM… on Linux, there for members of the group dialout or uucp)${board.usb === 'serial bridge' ? '. Where none appears with a good cable, the driver of the board’s USB bridge is missing' : ''}.`,
    )
  }
  const { tie } = board.wake
  if (design.sleep && tie)
    say(
      `${tie.from} and ${tie.to} apart`,
      `The wire from ${tie.from} to ${tie.to} ends the sleep, and keeps the chip from being written. Take it off until the node has come, then put it on: without it the node sleeps once and for good.`,
    )
  if (board.usb === 'native')
    say(
      'The port comes and goes',
      'This board’s USB is in the chip itself: its port goes away at each restart and comes back, sometimes under another name. A node that sleeps takes it along: hold the button while the cable goes in to get it back.',
    )
  if (board.download) {
    say('Download mode', board.download.hold)
    say(
      'The interpreter, once',
      board.download.by === 'drive'
        ? `A new board shows only a drive, and no port. Copy the image of ${interpreterFor(board)} onto it, a UF2 file for ${board.interpreter.image}. The drive vanishes by itself, the board starts anew, and now there is a port.`
        : `Write the image of ${interpreterFor(board)} for ${board.interpreter.image} with the chip maker’s own writing tool: erase the flash first, then write to address ${board.interpreter.at ?? '0x0'} at ${board.interpreter.baud} baud${board.interpreter.baud > 115_200 ? ' (115200 where that fails)' : ''}. Erasing clears old settings that would otherwise be kept.`,
    )
  }
  say(
    'The node',
    `vivid install ${bundle.name} PORT — with the port from above in place of PORT. It interrupts whatever runs, holds the board at its prompt without a watchdog, writes every file, reads each back and compares its checksum, and starts the node. Cut short, the same again finishes it. A node that sleeps is knocked at until it wakes.${bundle.withPasswords ? '' : ' This bundle has no passwords: fill in secret.example.json and put it into the bundle as board/secret.json first.'}`,
  )
  if (receivers.length > 0) say('Receiver on', 'Give the receiver its supply back: without it the node stays deaf.')
  say(
    'Its network',
    'These boards hear 2.4 GHz alone, with WPA2. The access point stays on channels 1 to 11: on 12 and 13 many hear nothing unless their country is set.',
  )
  say(
    'See it come',
    'Within half a minute the node says it is online, and the Program bench shows the revision it runs. If it does not: its start-up text on the same port says how far it came.',
  )
  if (mains)
    say(
      'Mains last',
      'Bring-up on the bench first, cover on, then whoever is licensed for it connects the mains again.',
      true,
    )
  say(
    'From now on',
    'Changes go over the air: Send on the Program bench. The old file stays in force until the new one has started and connected. The cable is only needed when a node cannot be reached any more.',
  )
  return out
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
