import { strFromU8, unzipSync } from 'fflate'
import { ON_BOARD } from '../core/bundle/bundleFiles'
import { sha256Hex } from '../core/hash/sha256Hex'
import { CableTrouble } from './port'

/** Files of a bundle that go onto the board, checked against its own checksums. */
export function boardFiles(zip: Uint8Array): Map<string, Uint8Array> {
  const entries = unzipSync(zip)
  const sums = entries.SHA256SUMS && strFromU8(entries.SHA256SUMS)
  if (sums === undefined) throw new CableTrouble('This is no install bundle: it has no SHA256SUMS.')
  for (const line of sums.trim().split('\n')) {
    const [sum = '', name = ''] = line.split(/ {2}(.*)/)
    if (name === 'secret.example.json') continue
    const content = entries[name]
    if (content === undefined) throw new CableTrouble(`${name} is missing from the bundle.`)
    if (sha256Hex(content) !== sum) throw new CableTrouble(`${name} is not as it was written: its checksum differs.`)
  }
  const files = new Map(
    Object.entries(entries).flatMap(([name, content]) =>
      name.startsWith(ON_BOARD) && !name.endsWith('/') ? [[name.slice(ON_BOARD.length), content] as const] : [],
    ),
  )
  if (!files.has('secret.json'))
    throw new CableTrouble(
      'This bundle has no passwords. Fill in secret.example.json and put it into the bundle as board/secret.json, or make the bundle with passwords on the Program bench.',
    )
  return files
}
