import type { Chip } from '../bundle/chipClass'
import { causeOf, mode8266, type StartCause } from './resets'
import { WIFI_WORDS, type WifiStep, wifiStep } from './wifiStatus'

/** How much a line says of what is wrong: nothing, a consequence of it, or the thing itself. */
export type Gravity = 0 | 1 | 2 | 3

/** What a line says, and what to do where something is wrong. */
export interface Said {
  /** Same for lines that say the same. */
  key: string
  means: string
  gravity: Gravity
  next?: readonly string[]
  /** Cause of the start that begins here, as far as the line tells it. */
  cause?: StartCause
  facts?: Partial<StartFacts>
}

/** What can be taken out of the text. */
export interface StartFacts {
  chip: Chip
  interpreter: string
  /** What the interpreter calls its board. */
  board: string
  node: string
  revision: number
  wifi: WifiStep
  strengthDbm: number
  address: string
  /** Hardware address, twelve hexadecimal digits. */
  hardware: string
  /** Return code of the broker; 0 it let the node in, -1 no connection came about. */
  broker: number
  firsts: string[]
  refused: string[]
}

interface Pattern {
  /** Never with a repeat inside a repeat: lines come from anywhere. */
  find: RegExp
  says: (found: RegExpExecArray, chip: Chip | null) => Said | null
}

const fine = (key: string, means: string, more: Partial<Said> = {}): Said => ({ key, means, gravity: 0, ...more })
const wrong = (
  key: string,
  gravity: Gravity,
  means: string,
  next: readonly string[],
  more: Partial<Said> = {},
): Said => ({
  key,
  means,
  gravity,
  next,
  ...more,
})

const CHIPS: Readonly<Record<string, Chip>> = {
  '32': '32-class',
  '32c3': 'c3-class',
  '32s3': 's3-class',
  '32c6': 'c6-class',
  '8266': '8266-class',
  '2040': 'rp2040',
}
/** The class of a chip by the number in what ROM and interpreter call it. */
const chipNamed = (word: string): Chip | undefined =>
  CHIPS[/^[a-z]{2,4}-?(\d+(?:-?[cs]\d)?)/i.exec(word)?.[1]?.toLowerCase().replace('-', '') ?? '']

const STRAP_PIN: Partial<Record<Chip, string>> = { 'c3-class': '9', 'c6-class': '9' }
/** The pin that asks for download mode when it is low at the start. */
const downloadPin = (chip: Chip | null): string => (chip === null ? '0 (9 on C3 and C6)' : (STRAP_PIN[chip] ?? '0'))

const SUPPLY = [
  'Measure the 3.3 V rail with the fastest range the meter has while the board starts: below 3.0 V it is the supply.',
  'A short, thick cable and another supply; then 470 µF or more close to the board’s supply pins.',
  'Take everything off the rail but the board: if it starts, add the parts one by one.',
]

function start(cause: StartCause): Said {
  switch (cause) {
    case 'power':
      return fine('start power', 'power came on', { cause })
    case 'program':
      return fine('start program', 'the program started the chip anew', { cause })
    case 'woke':
      return fine('start woke', 'it woke from deep sleep', { cause })
    case 'usb':
      return fine('start usb', 'reset over USB, as after writing', { cause })
    case 'reset':
      return fine('start reset', 'reset by its pin', { cause })
    case 'watchdog':
      return wrong(
        'start watchdog',
        2,
        'a watchdog started the chip anew: the program, or the chip, had stopped',
        [
          'The lines just before the restart say where it stood.',
          'Again and again without a word before it: the supply.',
          ...SUPPLY,
        ],
        { cause },
      )
    case 'brownout':
      return wrong('brownout', 3, 'the supply fell too low, mostly when the radio sends', SUPPLY, { cause })
    case 'other':
      return wrong(
        'start other',
        1,
        'the chip started for a rare cause',
        ['If it repeats: the supply, then the board.'],
        { cause },
      )
  }
}

/** The firmware says the same before the chip starts anew. */
const told = (cause: StartCause): Said => ({ ...start(cause), key: `${cause} told`, cause: undefined })

const download = (chip: Chip | null): Said =>
  wrong('download', 3, `the chip waits to be written: its pin ${downloadPin(chip)} was low when it started`, [
    'Let the button go, and press reset.',
    `Take off what is wired to pin ${downloadPin(chip)}: a part that pulls it low at the start keeps the program from running.`,
  ])

const ERRNO: Readonly<Record<number, string>> = {
  2: 'a file is missing',
  5: 'a part did not answer as it should (input or output error)',
  12: 'memory ran out',
  19: 'a part is not there: nothing answers at its address',
  28: 'the flash is full',
  103: 'the connection was dropped',
  104: 'the other end closed the connection',
  110: 'nothing answered in time',
  113: 'the broker’s address cannot be reached',
  118: 'the network was not there yet',
}

/** What ended a program, by the last line of its traceback. */
function ended(kind: string, rest: string): Said {
  const errno = /(?:Errno )?(\d+)/.exec(rest)
  const number = rest.includes('ENOENT') ? 2 : errno && Number(errno[1])
  switch (kind) {
    case 'ImportError':
      return wrong('import', 3, `a file of the runtime is missing or cannot be read${named(rest)}`, [
        'The bundle did not arrive whole: install it again.',
      ])
    case 'MemoryError':
      return wrong('memory', 3, 'memory ran out', [
        'Install the bundle again: it carries compiled modules, which take far less memory than text.',
        'The checks say how much memory this node file needs: fewer signals, or a board with more.',
      ])
    case 'SyntaxError':
      return wrong('syntax', 3, 'the interpreter does not understand a file', [
        'Its version is older than the runtime needs: write a newer image.',
        'A file that was changed by hand: install the bundle again.',
      ])
    case 'KeyboardInterrupt':
      return fine('interrupted', 'somebody interrupted the program over the cable')
    case 'ValueError':
      if (/mpy/.test(rest))
        return wrong('mpy', 3, 'the interpreter’s version does not read these compiled modules', [
          'Write the image of the version the install steps name.',
        ])
      break
    case 'OSError':
      if (number === 2)
        return wrong('file missing', 3, 'a file is missing', ['The bundle did not arrive whole: install it again.'])
      if (/wifi/i.test(rest))
        return wrong('radio', 2, 'the radio refused an order', ['Take the supply away for ten seconds.', ...SUPPLY])
      if (number !== null && ERRNO[number] !== undefined)
        return wrong(
          `errno ${number}`,
          3,
          ERRNO[number],
          number === 5 || number === 19
            ? ['Check that part’s supply, its wires and its address.']
            : ['The line above says where.'],
        )
  }
  return wrong(`ended ${kind}`, 2, `the program ended with ${kind}`, [
    'The lines above say where. Install the bundle again; if it stays, keep this text.',
  ])
}

const named = (rest: string): string => {
  const name = /(?:named|module) '([\w./]{1,40})'/.exec(rest)?.[1]
  return name === undefined ? '' : ` (${name})`
}

/** A network step: what it says, and whether it stands in the way. */
function network(chip: Chip | null, status: number, more: Partial<StartFacts> = {}): Said {
  const step = wifiStep(chip, status)
  if (step === null) return fine('wifi ?', `network status ${status}`, { facts: more })
  const facts = { ...more, wifi: step }
  const trouble = WIFI_WORDS[step]
  if (trouble) return wrong(`wifi ${step}`, 3, trouble.what, trouble.next, { facts })
  const words = {
    up: 'it is in the network',
    joining: 'it is joining the network',
    idle: 'the radio is on and joins nothing yet',
  }
  return fine(`wifi ${step}`, words[step as keyof typeof words], { facts })
}

const BROKER: Readonly<Record<number, { what: string; next: readonly string[] }>> = {
  [-1]: {
    what: 'no connection to the broker comes about',
    next: [
      'Is the broker’s address in the node file the one it has today? A computer’s address can change.',
      'Is the broker running, and does its computer let others in at that port?',
      'Some access points keep their stations apart from one another and from the cable: look for that setting.',
    ],
  },
  1: {
    what: 'the broker does not speak this version of the protocol',
    next: ['The outside broker has to take MQTT 3.1.1.'],
  },
  2: {
    what: 'the broker refuses the node’s client name',
    next: ['Another device with the same name, or a rule of the outside broker for names.'],
  },
  3: {
    what: 'the broker is not available',
    next: ['It is starting, or full: try again in a minute, then look at its own log.'],
  },
  4: {
    what: 'the broker refuses name or password',
    next: ['Renew the node’s login under Settings, make the bundle again and put it on.'],
  },
  5: {
    what: 'the broker does not allow this login',
    next: ['For an outside broker: its access list. The Publish bench shows what the node needs.'],
  },
}

/** The broker’s answer in words, by its number. */
export const BROKER_WORDS: Readonly<Record<number, string>> = {
  0: 'has let it in',
  ...Object.fromEntries(Object.entries(BROKER).map(([code, { what }]) => [code, what])),
}

const whole = (w: string | undefined): number | null => (w !== undefined && /^-?\d{1,6}$/.test(w) ? Number(w) : null)

function ownNetwork([a, b, c]: readonly string[], chip: Chip | null): Said | null {
  const status = whole(a)
  if (status === null) return null
  const dbm = whole(b)
  return network(chip, status, {
    ...(dbm === null || dbm >= 0 ? {} : { strengthDbm: dbm }),
    ...(c !== undefined && /^[\d.]{7,15}$/.test(c) ? { address: c } : {}),
  })
}

function ownBroker([a]: readonly string[]): Said | null {
  const code = whole(a)
  if (code === 0) return fine('vn broker', 'the broker has let it in', { facts: { broker: 0 } })
  const known = code === null ? undefined : BROKER[code]
  return known && code !== null
    ? wrong(`vn broker ${code}`, 3, known.what, known.next, { facts: { broker: code } })
    : null
}

function ownFile([node, revision]: readonly string[]): Said | null {
  if (node === undefined) return null
  if (node === 'none') return wrong('vn none', 3, 'there is no node file on the board', ['Install the bundle.'])
  if (node === 'bad') return wrong('vn bad', 3, 'the node file cannot be read', ['Install the bundle again.'])
  const n = whole(revision)
  return fine('vn file', `node ${node}, revision ${revision ?? '?'}`, {
    facts: { node, ...(n === null ? {} : { revision: n }) },
  })
}

/** The runtime’s own lines, by their second word. */
const OWN: Readonly<Record<string, (rest: readonly string[], chip: Chip | null) => Said | null>> = {
  start: ([why]) => fine('vn start', `the runtime starts${why === undefined ? '' : ` (${why})`}`),
  file: ownFile,
  drivers: ([n]) => fine('vn drivers', `${n ?? '?'} drivers started`),
  refused: ([signal]) =>
    wrong(
      `vn refused ${signal ?? ''}`,
      2,
      `the driver of ${signal ?? 'a signal'} did not start`,
      ['Check that part’s supply, its wires and its address; the others run.'],
      { facts: { refused: signal === undefined ? [] : [signal] } },
    ),
  mac: ([hardware]) =>
    hardware !== undefined && /^[0-9a-f]{12}$/.test(hardware)
      ? fine('vn mac', 'its hardware address', { facts: { hardware } })
      : null,
  net: ownNetwork,
  broker: ownBroker,
  first: ([signal]) =>
    signal === undefined ? null : fine('vn first', `first reading of ${signal}`, { facts: { firsts: [signal] } }),
  hold: () =>
    wrong('vn hold', 3, 'the board is held at its prompt: an installation was cut short', [
      'Install the bundle again: it goes on and ends the hold.',
    ]),
}

/**
 * What is known of lines, the more particular first. Numbers decide, not the words beside them: those differ between
 * chips of a class and versions of the interpreter.
 */
export const PATTERNS: readonly Pattern[] = [
  {
    find: /(?:^|\s)vn ([a-z]{2,8})((?: [\w.:-]{1,40}){0,5})/,
    says: (f, chip) => OWN[f[1] ?? '']?.((f[2] ?? '').trim().split(' ').filter(Boolean), chip) ?? null,
  },
  { find: /Brown-?out detector was triggered/i, says: () => told('brownout') },
  {
    find: /flash read err, ?(\d+)/,
    says: () =>
      wrong(
        'flash voltage',
        3,
        'the flash cannot be read: on the 32-class pin 12 was high at the start, which sets the memory to 1.8 V',
        [
          'What is wired to 12? Take it off and start again.',
          'It stays: write the interpreter again, and look at the module’s soldering.',
        ],
      ),
  },
  {
    find: /invalid header: ?0x([0-9a-f]{1,8})/i,
    says: (f) =>
      /^f+$/i.test(f[1] ?? '')
        ? wrong('empty', 3, 'the flash is empty where the program should begin', [
            'Write the interpreter’s image.',
            'It was written: to the wrong address. It begins at 0x1000 on the 32-class, at 0x0 on the others.',
          ])
        : wrong('header', 3, 'what stands where the program should begin is no program', [
            'Written to the wrong address, or the image of another chip: erase and write again.',
          ]),
  },
  {
    find: /csum err|checksum (?:error|mismatch)|SHA-256 comparison failed|Checksum failed|image at 0x[0-9a-f]+ has invalid|No bootable app|Factory app partition is not bootable|invalid magic/i,
    says: () =>
      wrong('damaged', 3, 'the image in the flash is damaged', [
        'Erase and write it again, at 115 200 baud.',
        'It happens again: a shorter cable, then another board.',
      ]),
  },
  {
    find: /ets_main\.c ?\d*/,
    says: () =>
      wrong('no program', 2, 'the chip found no program it could start', [
        'Erase and write the interpreter again, at 115 200 baud.',
      ]),
  },
  { find: /waiting for download/i, says: (_, chip) => download(chip) },
  {
    find: /Guru Meditation Error(?:: Core +(\d) panic'ed \(([^)]{1,40})\))?/,
    says: (f) =>
      wrong('panic', 3, `the firmware crashed${f[2] === undefined ? '' : ` (${f[2]})`}`, [
        'The line above it says what it was doing.',
        'In the middle of the radio’s start: the supply.',
        'It stays with a good supply: erase, write the interpreter again, keep this text.',
      ]),
  },
  {
    find: /Fatal exception ?\(?(\d{1,2})?/,
    says: (f) =>
      wrong('panic', 3, `the firmware crashed${f[1] === undefined ? '' : ` (exception ${f[1]})`}`, [
        'The supply first: a short cable, 470 µF at the board.',
        'It stays: erase the flash, write the interpreter again.',
      ]),
  },
  {
    find: /stack overflow in task|abort\(\) was called|assert failed|Stack smashing/i,
    says: () =>
      wrong('panic', 3, 'the firmware crashed', [
        'The line above says where. Write the interpreter again; keep this text.',
      ]),
  },
  { find: /Task watchdog got triggered|Interrupt wdt timeout|wdt reset/i, says: () => told('watchdog') },
  { find: /MEMORY ?ERROR|memory allocation failed|malloc.{0,20}fail/i, says: () => ended('MemoryError', '') },
  {
    find: /rst cause: ?(\d)(?:.{0,4}boot mode: ?\((\d))?/,
    says: (f) => {
      const facts = { chip: '8266-class' as Chip }
      const cause = causeOf('8266-class', Number(f[1]))
      const mode = f[2] === undefined ? 'flash' : mode8266(Number(f[2]))
      if (mode === 'download') return { ...download('8266-class'), cause, facts }
      if (mode === '15 high')
        return wrong(
          '15 high',
          3,
          'the chip waits for a memory card: its pin 15 was high when it started',
          ['What is wired to 15 has to leave it low at the start: take it off and start again.'],
          { cause, facts },
        )
      if (mode === '2 low')
        return wrong(
          '2 low',
          3,
          'the chip does not start: its pin 2 was low',
          ['What is wired to 2 has to leave it high at the start: take it off and start again.'],
          { cause, facts },
        )
      const said = start(cause)
      return { ...said, facts, ...(cause === 'reset' ? { means: 'reset by its pin, or woke from deep sleep' } : {}) }
    },
  },
  {
    find: /rst: ?0x([0-9a-f]{1,2})\b(?:.{0,40}?boot: ?0x([0-9a-f]{1,2})\b(.*))?/i,
    says: (f, chip) => {
      const cause = causeOf(chip, parseInt(f[1] ?? '', 16))
      const mode = f[2] === undefined ? null : parseInt(f[2], 16)
      if (/DOWNLOAD/i.test(f[3] ?? '')) return { ...download(chip), cause }
      // The bit of pin 12 in what the 32-class read at its start.
      if ((chip === null || chip === '32-class') && mode !== null && (mode & 0x20) !== 0 && cause !== 'brownout')
        return wrong(
          '12 high',
          2,
          'pin 12 was high at the start: the 32-class then feeds its memory with 1.8 V',
          ['What is wired to 12? Take it off and start again.'],
          { cause },
        )
      return start(cause)
    },
  },
  { find: /\((?:[A-Z_]*)DOWNLOAD[^)]*\)|DOWNLOAD_BOOT/, says: (_, chip) => download(chip) },
  {
    find: /ESP-ROM:([a-z]{2,4}32[a-z]?\d?)/i,
    says: (f) => fine('rom', 'the chip’s own loader', { facts: { ...chipFact(f[1]) } }),
  },
  {
    find: /^\W*ets Jan +8 2013/,
    says: () => fine('rom', 'the chip’s own loader', { facts: { chip: '8266-class' } }),
  },
  {
    find: /^\W*ets [A-Z][a-z]{2} +\d{1,2} 20\d\d/,
    says: () => fine('rom', 'the chip’s own loader', { facts: { chip: '32-class' } }),
  },
  {
    find: /boot mode: ?\((\d)/,
    says: (f) => (mode8266(Number(f[1])) === 'download' ? download('8266-class') : fine('mode', 'start from flash')),
  },
  {
    find: /MicroPython v(\d+\.\d+(?:\.\d+)?[\w.-]*) on ([\d-]{8,10})(?:; ?(.{1,60}?) with (\S{1,20}))?/,
    says: (f) =>
      fine('banner', `the interpreter is alive, version ${f[1] ?? '?'}`, {
        facts: { interpreter: f[1] ?? '', ...(f[3] === undefined ? {} : { board: f[3] }), ...chipFact(f[4]) },
      }),
  },
  { find: /soft reboot/, says: () => fine('soft reboot', 'the interpreter starts its program anew') },
  {
    find: /Traceback \(most recent call last\)/,
    says: () =>
      wrong('traceback', 1, 'a program ended with an error: the last line of what follows says which', [
        'Read the last line of it.',
      ]),
  },
  {
    find: /^\s*((?:[A-Z]\w{1,24})?(?:Error|Interrupt|Exception))(?::|$) ?(.*)/,
    says: (f) => ended(f[1] ?? '', f[2] ?? ''),
  },
  { find: /raw REPL/, says: () => fine('raw', 'the interpreter’s raw prompt: something talks to it') },
  { find: /^\s*>>>/, says: () => fine('prompt', 'the interpreter waits at its prompt') },
  {
    find: /\b(?:STAT|status)\D{0,3}(-?\d{1,4})\b/i,
    says: (f, chip) => (wifiStep(chip, Number(f[1])) === null ? null : network(chip, Number(f[1]))),
  },
  { find: /disconnected?.{0,12}reason: ?(\d{1,3})/i, says: (f, chip) => network(chip, Number(f[1])) },
  {
    find: /(?:RSSI|dBm)\D{0,3}(-\d{2,3})|(-\d{2,3}) ?dBm/i,
    says: (f) =>
      fine('strength', 'how strongly it hears the access point', { facts: { strengthDbm: Number(f[1] ?? f[2]) } }),
  },
  { find: /Rebooting\.\.\./, says: () => fine('rebooting', 'it starts anew') },
  {
    find: /^(?:configsip|clk_drv|mode:|load[: ]0x|entry 0x|SPIWP|Build:|Saved PC|tail \d|chksum 0x|csum 0x|~?ld\b|ho \d|len \d|Core \d register dump|Backtrace:|ELF file SHA)/,
    says: () => fine('loading', 'the chip loads its program'),
  },
]

function chipFact(word: string | undefined): { chip?: Chip } {
  const chip = word === undefined ? undefined : chipNamed(word)
  return chip === undefined ? {} : { chip }
}
