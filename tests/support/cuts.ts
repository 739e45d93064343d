import { wait } from '../../src/cable/port'
import { TextLine } from '../../src/cable/textLine'
import { writeImage } from '../../src/cable/writeImage'
import type { Board } from '../../src/core/catalog/board'
import { readStartup } from '../../src/core/startup/readStartup'
import type { plugIn } from './cable'
import { madeImage } from '../../standins/cable/madeImage'

/** What a board says after a reset, heard until it says nothing more. */
export async function heardAfterReset(
  port: Parameters<typeof TextLine.open>[0],
  { ms = 900, baud = 115_200 } = {},
): Promise<string> {
  let text = ''
  const line = await TextLine.open(port, baud, (t) => {
    text += t
  })
  await line.reset()
  for (let quiet = 0, before = -1; quiet < ms; quiet += 100) {
    await wait(100)
    if (text.length !== before) quiet = 0
    before = text.length
    if (text.includes('>>> ')) break
  }
  await line.close()
  return text
}

/**
 * Pulls the cable at seeded moments while an image is written over an older one: afterwards the board runs the old one,
 * or says itself what to do. Returns how many of each, and what was neither.
 */
export async function cutWhileWriting(
  cable: Awaited<ReturnType<typeof plugIn>>,
  board: Board,
  times: number,
  seed = 1,
) {
  const chip = board.interpreter.chip
  if (chip === 'rp2040') throw new Error('over a drive')
  let state = seed
  const random = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647
  const [old, next] = [madeImage(chip, { bytes: 140_000 }), madeImage(chip, { bytes: 180_000, version: '1.26.0' })]
  const write = (image: Uint8Array, cutAfter = Infinity) => {
    const port = cable.port()
    let sent = 0
    const counting = {
      get readable() {
        return port.readable
      },
      get writable() {
        const { writable } = port
        if (!writable) return null
        return {
          getWriter: () => {
            const writer = writable.getWriter()
            return {
              write: async (bytes: Uint8Array) => {
                sent += bytes.length
                if (sent > cutAfter) cable.tell({ pull: true })
                await writer.write(bytes)
              },
              close: () => writer.close(),
              releaseLock: () => writer.releaseLock(),
            }
          },
          get locked() {
            return writable.locked
          },
        } as unknown as WritableStream<Uint8Array>
      },
      open: port.open.bind(port),
      close: port.close.bind(port),
      setSignals: port.setSignals.bind(port),
      getInfo: port.getInfo.bind(port),
    }
    return writeImage({ port: counting, image, board, erase: false, told: () => undefined }).then(() => sent)
  }
  const totals = [await write(old), await write(next)]
  let [kept, said] = [0, 0]
  const odd: string[] = []
  for (let n = 0; n < times; n++) {
    const image = n % 2
    const all = totals[image] ?? 0
    const at = Math.floor(all * random())
    const ended = await write(image === 0 ? old : next, at).then(
      () => null,
      (e: unknown) => e as Error & { next?: readonly string[] },
    )
    const { head } = readStartup(await heardAfterReset(cable.port()), { chip })
    if (ended === null || (ended.next?.length ?? 0) === 0)
      odd.push(`cut at ${at} of ${all}: ${ended?.message ?? 'went through'}`)
    if (head.kind === 'fine') kept += 1
    else if (head.kind === 'wrong' && head.next.length > 0) said += 1
    else odd.push(`after ${at} of ${all}: ${head.text}`)
    // The same again mends it.
    if (head.kind !== 'fine') await write(image === 0 ? old : next)
  }
  return { kept, said, odd }
}
