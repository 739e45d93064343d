import { demo } from '../../src/demo/demoHost'
import { Product } from '../../src/server/product'
import { PASSWORDS } from './product'

/**
 * The product in a process of its own, until it is killed; a terminated one stops cleanly. Arguments: data folder,
 * broker port, `stays` to leave the broker running.
 */
const [folder = '', port = '', stays = ''] = process.argv.slice(2)
const product = await Product.start({
  project: process.cwd(),
  dataFolder: folder,
  host: '127.0.0.1',
  mqttPort: Number(port),
  tls: null,
  brokerEnds: stays !== 'stays',
  guest: demo(process.cwd(), folder, PASSWORDS, ['slip-tank']),
})
process.once('SIGTERM', () => void product.stop().then(() => process.exit(0)))
process.stdout.write('ready\n')
