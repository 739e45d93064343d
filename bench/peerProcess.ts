import { Aedes } from 'aedes'
import net from 'node:net'
import mqtt from 'mqtt'

// The library's broker as it comes, in a process, and one subscriber to everything in another: what the product's
// broker and storing are measured against. `broker PORT` and `subscriber PORT QOS` are the two.
const [, , role, port, qos] = process.argv

if (role === 'broker') {
  const aedes = await Aedes.createBroker()
  net.createServer(aedes.handle).listen(Number(port), '127.0.0.1', () => process.send?.('ready'))
}
if (role === 'subscriber') {
  let heard = 0
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`)
  client.on('message', () => {
    heard += 1
  })
  await client.subscribeAsync('#', { qos: qos === '1' ? 1 : 0 })
  process.on('message', () => process.send?.(heard))
  process.send?.('ready')
}
