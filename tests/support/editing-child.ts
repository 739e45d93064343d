import { randomUUID } from 'node:crypto'
import { demo } from '../../src/demo/demoHost'
import { Product } from '../../src/server/product'
import { PASSWORDS, SLIP_TANK } from './product'

/** Saves one edit after the other and says so, until it is killed. Arguments: data folder, broker port. */
const [folder = '', port = ''] = process.argv.slice(2)
const product = await Product.start({
  project: process.cwd(),
  dataFolder: folder,
  host: '127.0.0.1',
  mqttPort: Number(port),
  tls: null,
  brokerEnds: true,
  guest: demo(process.cwd(), folder, PASSWORDS, ['slip-tank']),
})
for (;;) {
  const base = product.workshop.get(SLIP_TANK)?.seq ?? 0
  const outcome = await product.workshop.edit({
    id: randomUUID(),
    document: SLIP_TANK,
    base,
    body: { kind: 'rename-part', partId: 'button', label: `Button ${base}` },
    author: 'test',
    at: new Date().toISOString(),
  })
  process.stdout.write(`${outcome.kind}\n`)
}
