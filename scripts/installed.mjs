// Ends with 0 when what is installed is what the lock file asks for, whoever installed it.
import fs from 'node:fs'

const read = (file) => {
  try {
    return JSON.parse(fs.readFileSync(file, 'utf8')).packages
  } catch {
    return null
  }
}
const [wanted, there] = [read('package-lock.json'), read('node_modules/.package-lock.json')]
const missing =
  wanted && there
    ? Object.entries(wanted).filter(([at, p]) => at !== '' && !p.optional && there[at]?.version !== p.version)
    : [['all of them']]
process.exit(missing.length === 0 ? 0 : 1)
