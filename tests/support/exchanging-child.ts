import path from 'node:path'
import { exchange, keepExchange } from '../../src/server/files/dataFolder'

/** Puts the database in `restore-x` in place of the one in use and ends the exchange. Argument: data folder. */
const [folder = ''] = process.argv.slice(2)
exchange(folder, path.join(folder, 'restore-x/database'), 'database-before-x')
keepExchange(folder)
