import fs from 'node:fs'
import * as attacks from '../tests/support/attacks'
import { ownCertificate } from '../tests/support/certificate'
import { startOwn } from '../tests/support/demo'
import { freePort, startProduct } from '../tests/support/product'

type Row = [string, string, string]
const PASSWORD = 'cone six oxidation'

/**
 * Everything that is tried against the product, in numbers a night of it would have; only addresses of this machine.
 * True when nothing got through.
 */
export async function attack(rows: Row[]): Promise<boolean> {
  let clean = true
  const told = (name: string, { tried, through, note }: attacks.Attacked) => {
    clean &&= through === 0
    rows.push([`attack: ${name}`, `${tried} tried, ${through} through; ${note}`, '0 through'])
    console.log(`${name}: ${tried} tried, ${through} through; ${note}`)
  }
  await broker(told)
  await pages(told)
  return clean
}

type Told = (name: string, attacked: attacks.Attacked) => void

async function broker(told: Told): Promise<void> {
  const { certFile, keyFile } = ownCertificate()
  const port = await freePort()
  const product = await startProduct(undefined, undefined, { port, certFile, keyFile })
  await attacks.prepare(product)
  const targets: [string, attacks.BrokerTarget][] = [
    ['plain', { product, url: `mqtt://127.0.0.1:${product.options.mqttPort}`, options: {} }],
    ['secure', { product, url: `mqtts://127.0.0.1:${port}`, options: { ca: fs.readFileSync(certFile) } }],
  ]
  for (const [how, t] of targets) {
    told(`a subscriber that does not read, ${how}`, await attacks.unreadSubscriber(t, 2000, 60_000))
    told(`overlapping filters, ${how}`, await attacks.overlapping(t, 500))
    told(`subscriptions, ${how}`, await attacks.manySubscriptions(t, 5000))
    told(`retained messages, ${how}`, await attacks.manyRetained(t, 5000))
    told(`wrong logins, ${how}`, await attacks.loginFlood(t, 2000))
    told(`connections of one login, ${how}`, await attacks.manyConnections(t, 200))
    told(`a session that is away, ${how}`, await attacks.absentSession(t, 10_000))
    told(`topics, filters and ids of others, ${how}`, await attacks.foreignTopics(t))
  }
  await product.stop()
}

async function pages(told: Told): Promise<void> {
  const own = await startOwn()
  const memory = () => Number(fs.readFileSync(`/proc/${own.child.pid ?? 0}/statm`, 'utf8').split(' ')[1]) * 4096
  await attacks.send(
    `${own.url}/api/nodes`,
    'POST',
    JSON.stringify({ name: 'Bell', place: '', board: 'board-32-30', author: '' }),
  )
  const { nodes } = JSON.parse((await attacks.send(`${own.url}/api/snapshot`, 'GET', null)).text) as {
    nodes: { id: string }[]
  }
  told('bodies without an end', await attacks.endlessBodies(own.url, 300_000_000))
  told('requests that make no sense', await attacks.nastyBodies(own.url, nodes[0]?.id ?? ''))
  told('one name at once', await attacks.sameNames(own.url, 60))
  told('a design of 800 parts', await attacks.hugeDesign(own.url, 60))
  told('backups at once', await attacks.backupsAtOnce(own.url, 20))
  told('streams dropped', await attacks.droppedStreams(own.url, 15_000, memory))
  told('pages of others', await attacks.foreignPages(own.url))
  await own.stop()
  const locked = await startOwn({ VIVID_SHOP_PASSWORD: PASSWORD })
  told('bodies without an end before the door', await attacks.endlessBodies(locked.url, 300_000_000))
  told('guesses at the password', await attacks.guesses(locked.url, 2000, PASSWORD))
  await locked.stop()
}
