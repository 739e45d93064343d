import fs from 'node:fs'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream } from 'node:stream/web'
import { problem } from './guard'

/** A request whose body is larger than is taken; the rest of it is not read. */
class TooLarge extends Error {}

/** The pieces of a body, ended as soon as they are more than `most` bytes. */
function limited(request: Request, most: number): Readable {
  if (Number(request.headers.get('content-length') ?? 0) > most) throw new TooLarge()
  if (!request.body) return Readable.from([])
  let bytes = 0
  const measure = new Transform({
    transform(piece: Buffer, _, next) {
      bytes += piece.length
      next(bytes > most ? new TooLarge() : null, piece)
    },
  })
  const from = Readable.fromWeb(request.body as ReadableStream<Uint8Array>)
  from.on('error', (e) => measure.destroy(e))
  measure.on('error', () => from.destroy())
  return from.pipe(measure)
}

const tooLarge = (most: number) =>
  problem(413, `The request is larger than ${most} bytes; that is the most that is accepted here.`)

/**
 * A body of at most `most` bytes as text, or the answer that says why not. What is more is not kept, whatever length
 * was announced.
 */
export async function bodyText(request: Request, most: number): Promise<string | Response> {
  try {
    const pieces: Buffer[] = []
    for await (const piece of limited(request, most)) pieces.push(piece as Buffer)
    return Buffer.concat(pieces).toString('utf8')
  } catch (e) {
    return e instanceof TooLarge
      ? tooLarge(most)
      : problem(400, 'The request ended before it was whole; send it again.')
  }
}

/** A body of at most `most` bytes, written to a new file piece by piece; null, or the answer that says why not. */
export async function bodyToFile(request: Request, file: string, most: number): Promise<Response | null> {
  try {
    await pipeline(limited(request, most), fs.createWriteStream(file, { mode: 0o600, flags: 'wx' }))
    return fs.statSync(file).size > 0
      ? null
      : problem(413, `The file is empty; a backup has between 1 and ${most} bytes.`)
  } catch (e) {
    fs.rmSync(file, { force: true })
    if (e instanceof TooLarge) return tooLarge(most)
    const code = e instanceof Error && 'code' in e ? e.code : ''
    if (code === 'ENOSPC')
      return problem(507, 'The disk is too full to take the file. Make room and send it again; nothing was changed.')
    return problem(400, 'The file ended before it was whole; send it again.')
  }
}
