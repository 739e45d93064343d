import fs from 'node:fs'
import { boardFiles } from '../cable/boardFiles'
import { BAUD, listen } from '../cable/listen'
import { CableTrouble } from '../cable/port'
import { putFiles } from '../cable/putFiles'
import { stepWords } from '../cable/stepWords'
import { TextLine } from '../cable/textLine'
import { writeImage } from '../cable/writeImage'
import { platformOf } from '../core/bundle/chipClass'
import { builtInCatalog } from '../core/catalog/catalog'
import { readImage } from '../core/image/readImage'
import { readStartup } from '../core/startup/readStartup'
import { bootWords } from './boot'
import { nodeFileSchema } from '../core/nodefile/nodeFile'
import { portNamed, ports } from './serialPort'

/** Boards with USB of their own take the port along when they start anew, and may bring it back under another name. */
async function portAgain(port: string, before: readonly string[]): Promise<string> {
  for (const end = Date.now() + 20_000; Date.now() < end;) {
    await new Promise((r) => setTimeout(r, 500))
    if (port.startsWith('socket:') || process.platform === 'win32' || fs.existsSync(port)) return port
    const [fresh, ...more] = (await ports()).filter((p) => !before.includes(p))
    if (fresh !== undefined && more.length === 0) return fresh
  }
  throw new CableTrouble(
    `${port} went away when the board started anew, and has not come back within 20 s. Unplug it, plug it in, see which port is new, and install again: the board waits at its prompt.`,
  )
}

/** Puts a bundle onto the board at a serial port, and says what the board says when it starts. */
export async function install(zipFile: string, port: string): Promise<void> {
  const files = boardFiles(fs.readFileSync(zipFile))
  const file = nodeFileSchema.parse(JSON.parse(Buffer.from(files.get('node.json') ?? []).toString('utf8')))
  const chip = builtInCatalog.boards[file.board]?.interpreter.chip ?? '32-class'
  const before = port.startsWith('socket:') ? [] : await ports()
  let line = await TextLine.open(portNamed(port), BAUD)
  try {
    const { hardware } = await putFiles(line, {
      files,
      platform: platformOf(chip),
      patienceMs: file.sleep ? (file.sleep.everyS + 30) * 1000 : undefined,
      reopen: async () => {
        await line.close()
        line = await TextLine.open(portNamed(await portAgain(port, before)), BAUD)
        return line
      },
      told: (what, done, of) => console.log(`${String(done).padStart(3)}/${of}  ${what}`),
    })
    if (hardware !== null) console.log(`hardware address ${hardware}`)
    console.log('Written, read back and started. What it says:')
    await line.close()
    const board = builtInCatalog.boards[file.board]
    if (board) {
      const text = await listen(portNamed(port), { reset: true, board, stopped: () => false, heard: () => undefined })
      console.log(bootWords(readStartup(text, { chip, usb: board.usb })))
    }
  } finally {
    await line.close()
  }
}

/** Writes an interpreter's image onto the board at a serial port. */
export async function write(
  imageFile: string,
  port: string,
  { board, keep }: { board?: string; keep?: boolean },
): Promise<void> {
  const image = new Uint8Array(fs.readFileSync(imageFile))
  const { chip } = readImage(image) ?? { chip: null }
  const boards = Object.values(builtInCatalog.boards)
  // Without a board: any of the image's class, whose facts are the same for writing.
  const of = board === undefined ? boards.find((b) => b.interpreter.chip === chip) : builtInCatalog.boards[board]
  if (board !== undefined && !of)
    throw new CableTrouble(`There is no board “${board}”: --board takes ${boards.map((b) => b.id).join(', ')}.`)
  const found = of ?? boards[0]
  if (!found) throw new Error('no boards')
  let said = ''
  const written = await writeImage({
    port: portNamed(port),
    image,
    board: found,
    erase: keep !== true,
    told: (step) => {
      const words = stepWords(step)
      if (words !== said) console.log(words)
      said = words
    },
  })
  console.log(`Written and compared. Hardware address ${written.hardware}; image ${written.sha256.slice(0, 16)}…`)
}
