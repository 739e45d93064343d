import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import fs from 'node:fs'
import net from 'node:net'
import path from 'node:path'
import type { AccessOf } from '../../src/core/publish/accessText'
import { freePort, tempFolder } from './product'

const PROGRAM = '/usr/sbin/mosquitto'

/** A broker that is not ours, from the distribution's own package: with logins, an access list, and TLS where wanted. */
export async function foreignBroker(given: {
  /** Login → password. */
  logins: Record<string, string>
  /** Text of its access list; without, everybody may do all. */
  access?: string
  tls?: { certFile: string; keyFile: string }
}) {
  const folder = tempFolder()
  fs.chmodSync(folder, 0o777)
  const at = (name: string) => path.join(folder, name)
  fs.writeFileSync(at('passwords'), '')
  for (const [name, password] of Object.entries(given.logins))
    execFileSync('mosquitto_passwd', ['-b', at('passwords'), name, password], { stdio: 'ignore' })
  if (given.access !== undefined) fs.writeFileSync(at('access'), given.access)
  const [port, tlsPort] = [await freePort(), await freePort()]
  const conf = [
    `listener ${port} 127.0.0.1`,
    'allow_anonymous false',
    `password_file ${at('passwords')}`,
    ...(given.access === undefined ? [] : [`acl_file ${at('access')}`]),
    'persistence true',
    `persistence_location ${folder}/`,
    'user root',
    'log_dest none',
    ...(given.tls
      ? [`listener ${tlsPort} 127.0.0.1`, `certfile ${given.tls.certFile}`, `keyfile ${given.tls.keyFile}`]
      : []),
  ]
  fs.writeFileSync(at('conf'), conf.join('\n'))
  let child: ChildProcess | null = null
  const start = async () => {
    child = spawn(PROGRAM, ['-c', at('conf')], { stdio: 'ignore' })
    for (let n = 0; n < 100; n++) {
      const up = await new Promise<boolean>((r) => {
        const s = net.connect(port, '127.0.0.1', () => r(true)).on('error', () => r(false))
        s.once('close', () => undefined).once('connect', () => s.destroy())
      })
      if (up) return
      await new Promise((r) => setTimeout(r, 50))
    }
    throw new Error('the broker does not listen')
  }
  const end = async () => {
    const was = child
    if (!was) return
    child = null
    const gone = new Promise((r) => was.once('exit', r))
    was.kill('SIGTERM')
    await gone
  }
  await start()
  return {
    port,
    url: `mqtt://127.0.0.1:${port}`,
    tlsUrl: `mqtts://127.0.0.1:${tlsPort}`,
    restart: async () => {
      await end()
      await start()
    },
    close: async () => {
      await end()
      fs.rmSync(folder, { recursive: true, force: true })
    },
  }
}

/** Rights as this broker reads them. */
export const accessListOf = (rows: readonly AccessOf[]): string =>
  rows
    .flatMap((r) => [
      `user ${r.login}`,
      ...r.publish.map((f) => `topic write ${f}`),
      ...r.hear.map((f) => `topic read ${f}`),
      ...r.not.map((f) => `topic deny ${f}`),
    ])
    .join('\n')
