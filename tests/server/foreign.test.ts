import Ajv2020 from 'ajv/dist/2020'
import { execFile } from 'node:child_process'
import fs from 'node:fs'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { controllerAccess, fileAccess } from '../../src/core/publish/access'
import { type AccessOf, accessText } from '../../src/core/publish/accessText'
import { asyncApi } from '../../src/core/publish/asyncApi'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { mayAlso } from '../../src/proving/mayAlso'
import { prove } from '../../src/proving/prove'
import { ownCertificate } from '../support/certificate'
import { catalog } from '../support/designs'
import { accessListOf, foreignBroker } from '../support/foreignBroker'
import { wornDesign, wornNode } from '../support/wornNode'

const run = promisify(execFile)
const ROOT = 'yard'
const PASSWORDS = { vivid: 'vivid-pass', node: 'node-pass', house: 'house-pass' }
const design = wornDesign()
const speaker = { node: design.slug, signals: Object.values(design.signals).map(({ slug }) => ({ slug })) }
const rights: AccessOf[] = [
  { login: 'vivid', who: 'Vivid Node', publish: ['#'], hear: ['#'], not: [] },
  { login: 'node', who: design.name, ...fileAccess(ROOT, speaker), not: [] },
  { login: 'house', who: 'controller', ...controllerAccess(ROOT) },
]
const of = (login: string) => rights.find((r) => r.login === login) as AccessOf
const certificate = ownCertificate()
let kept: Awaited<ReturnType<typeof foreignBroker>>
let open: Awaited<ReturnType<typeof foreignBroker>>
beforeAll(async () => {
  kept = await foreignBroker({ logins: PASSWORDS, access: accessListOf(rights), tls: certificate })
  open = await foreignBroker({ logins: PASSWORDS })
})
afterAll(async () => {
  await kept.close()
  await open.close()
})

const tried = (broker: { url: string }, name: 'node' | 'house') =>
  mayAlso(
    { url: broker.url, username: 'vivid', password: PASSWORDS.vivid },
    { url: broker.url, username: name, password: PASSWORDS[name] },
    of(name),
    ROOT,
    `probe-${name}`,
  )

describe('a broker somebody else runs', () => {
  test('given the rights as text, it lets each login do what it needs and nothing more; without, everything shows', async () => {
    expect(accessText(ROOT, rights)).toContain(`    ${ROOT}/+/config/set`)
    for (const name of ['node', 'house'] as const) {
      expect(await tried(kept, name)).toEqual({ came: null, also: [], lacks: [], anybody: false })
      const { also } = await tried(open, name)
      expect(also.map((t) => t.words)).toContain('send files to nodes, which rewires their outputs')
    }
    const { also } = await tried(open, 'node')
    expect(also.map((t) => t.words)).toEqual(
      expect.arrayContaining(['speak for any node', 'command any output', 'hear every command']),
    )
    const wrong = await mayAlso(
      { url: kept.url, username: 'vivid', password: PASSWORDS.vivid },
      { url: kept.url, username: 'node', password: 'guessed' },
      of('node'),
      ROOT,
      'probe-x',
    )
    expect(wrong.came).toMatch(/not authori[sz]ed|bad user/i)
  })

  test('the contract holds there, over TLS, with the access list, and after it was started anew', async () => {
    const node = await wornNode({ port: kept.port, root: ROOT }, { username: 'node', password: PASSWORDS.node }, null)
    const proof = () =>
      prove({
        login: {
          url: kept.tlsUrl,
          username: 'house',
          password: PASSWORDS.house,
          ca: fs.readFileSync(certificate.certFile),
        },
        root: ROOT,
        listenS: 4.5,
        deeds: { commands: true },
      })
    try {
      const failed = (r: Awaited<ReturnType<typeof proof>>) => r.lines.filter((l) => l.verdict === 'failed')
      const before = await proof()
      expect(failed(before)).toEqual([])
      expect(before.lines.filter((l) => l.check === 'command' && l.verdict === 'passed')).toHaveLength(1)
      await kept.restart()
      await node.restore()
      expect(failed(await proof())).toEqual([])
    } finally {
      await node.end()
    }
  })

  test('another client library gets from the broker what the AsyncAPI document promises, topic by topic', async () => {
    const node = await wornNode({ port: kept.port, root: ROOT }, { username: 'node', password: PASSWORDS.node }, null)
    const document = asyncApi(design, NO_SURROUNDINGS, catalog, { host: '127.0.0.1', port: kept.port, root: ROOT }) as {
      channels: Record<string, { address: string }>
      operations: Record<
        string,
        {
          action: 'send' | 'receive'
          channel: { $ref: string }
          reply?: { channel: { $ref: string } }
          bindings: { mqtt: { retain: boolean } }
        }
      >
      components: { schemas: Record<string, object> }
    }
    const ajv = new Ajv2020({ strict: false, validateFormats: false })
    const login = ['-h', '127.0.0.1', '-p', String(kept.port), '-u', 'house', '-P', PASSWORDS.house]
    const keyOf = (ref: string) => ref.split('/').at(-1) ?? ''
    const addressOf = (ref: string) => document.channels[keyOf(ref)]?.address ?? ''
    try {
      // Those said by themselves: signals and what every node has, but the file in force, which this node has none of.
      const said = Object.values(document.operations).filter(
        (o) => o.action === 'send' && !/done$|fault$|config$|press$/.test(addressOf(o.channel.$ref)),
      )
      expect(said.length).toBeGreaterThanOrEqual(7)
      for (const { channel, bindings } of said) {
        const { stdout } = await run('mosquitto_sub', [
          ...login,
          '-t',
          addressOf(channel.$ref),
          '-C',
          '1',
          '-W',
          '5',
          '-F',
          '%r %p',
        ])
        const [, retained, payload = ''] = /^(\d) ([\s\S]*)$/.exec(stdout.trim()) ?? []
        expect([channel.$ref, retained === '1']).toEqual([channel.$ref, bindings.mqtt.retain])
        const fits = ajv.validate(document.components.schemas[keyOf(channel.$ref)] ?? false, JSON.parse(payload))
        expect([channel.$ref, fits]).toEqual([channel.$ref, true])
      }
      const asked = Object.values(document.operations).filter((o) => o.action === 'receive')
      expect(asked).toHaveLength(1)
      for (const { channel, reply } of asked) {
        const answer = addressOf(reply?.channel.$ref ?? '')
        const command = JSON.stringify({ value: true, id: 'other-client' })
        const { stdout } = await run('mosquitto_rr', [
          ...login,
          '-t',
          addressOf(channel.$ref),
          '-e',
          answer,
          '-m',
          command,
          '-W',
          '5',
        ])
        expect(JSON.parse(stdout)).toEqual({ id: 'other-client', result: 'done' })
        expect(
          ajv.validate(document.components.schemas[keyOf(reply?.channel.$ref ?? '')] ?? false, JSON.parse(stdout)),
        ).toBe(true)
      }
    } finally {
      await node.end()
    }
  })
})
