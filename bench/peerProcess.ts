import { Aedes } from 'aedes'
import net from 'node:net'
import mqtt from 'mqtt'

// The library's broker as it comes, in a process, and one subscriber to everything in another: what the product's
// broker and storing are measured against. Who publishes, to either, is a third. `broker PORT`, `subscriber PORT QOS`,
// `publishers PORT QOS N PASSWORD` are the three.
const [, , role, port, qos, n, password] = process.argv
/** Messages that may be on their way at once. */
const WINDOW = 100

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

if (role === 'publishers') {
  const clients = await Promise.all(
    Array.from({ length: Number(n) }, (_, i) =>
      mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, {
        username: `bench-${Math.floor(i / 20)}`,
        password,
        clientId: `bench-${i}`,
        reconnectPeriod: 0,
      }),
    ),
  )
  const at = qos === '1' ? 1 : 0
  // So many messages, their values counting on from `from`; said when the last has been taken.
  process.on('message', (given: { from: number; messages: number }) => {
    const each = given.messages / clients.length
    const publish = async (client: mqtt.MqttClient, c: number) => {
      for (let sent = 0; sent < each; sent += WINDOW)
        await Promise.all(
          Array.from({ length: Math.min(WINDOW, each - sent) }, (_, i) =>
            client.publishAsync('vn/slip-tank/level', String(given.from + c * each + sent + i), { qos: at }),
          ),
        )
    }
    void Promise.all(clients.map(publish)).then(() => process.send?.('published'))
  })
  process.send?.('ready')
}
