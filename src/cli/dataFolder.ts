import fs from 'node:fs'
import { lockFolder } from '../server/db/folderLock'
import {
  beginAnew,
  clearCopy,
  copiesIn,
  demandWhole,
  megabytes,
  settleExchange,
  putInPlace,
} from '../server/files/dataFolder'

/**
 * What is in a data folder; with `--use NAME`, `--clear NAME` or `--begin-anew` it is changed, never while the product
 * runs on it.
 */
export function dataFolder(folder: string, args: string[]): string {
  if (!fs.existsSync(folder)) throw new Error(`${folder} is not there.`)
  const [what = '', name = ''] = args
  if (what === '') return listed(folder)
  const release = lockFolder(folder)
  try {
    settleExchange(folder)
    return changed(folder, what, name)
  } finally {
    release()
  }
}

function changed(folder: string, what: string, name: string): string {
  const kept = (aside: string | null) => (aside === null ? '' : ` What was there is kept as ${aside}.`)
  switch (what) {
    case '--use':
      return `${folder}: ${name} is the database now.${kept(putInPlace(folder, name))} Start it with: VIVID_DATA=${folder} bin/start`
    case '--clear': {
      const wrong = clearCopy(folder, name)
      if (wrong) throw new Error(wrong)
      return `${name} is gone.`
    }
    case '--begin-anew':
      return `${folder}: the next start begins with an empty shop.${kept(beginAnew(folder))}`
    default:
      throw new Error(`“${what}” is not known here: --use NAME, --clear NAME or --begin-anew.`)
  }
}

function listed(folder: string): string {
  const copies = copiesIn(folder).map(
    (c) =>
      `  ${c.name}  ${megabytes(c.bytes)}  ${c.at}  ${c.kind === 'database' ? 'a whole earlier database' : 'left over, of no use'}`,
  )
  demandWhole(folder)
  return [
    `${folder}: its database looks whole.`,
    ...(copies.length > 0 ? ['Beside it:', ...copies] : ['Nothing is kept beside it.']),
  ].join('\n')
}
