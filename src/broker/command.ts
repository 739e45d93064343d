import path from 'node:path'
import { endBroker, ensureBroker, runningBroker } from '../server/broker/brokerProcess'
import { brokerFrom } from '../server/broker/fromEnvironment'

/** `bin/broker start`, `stop` and `status`: the broker by itself. Returns the exit code. */
export async function command(what: string | undefined): Promise<number> {
  const project = process.cwd()
  const data = path.resolve(process.env.VIVID_DATA ?? path.join(project, 'data/shop'))
  const wanted = brokerFrom(process.env, project, data)
  const running = runningBroker(wanted.folder)
  switch (what) {
    case 'start': {
      const { host, port, tls } = await ensureBroker(wanted, true)
      const secure = tls ? `, with certificate on ${tls.port}` : ''
      console.log(`${running ? 'The broker runs already' : 'The broker runs'}: ${host}:${port}${secure}`)
      return 0
    }
    case 'stop':
      console.log(
        (await endBroker(wanted.folder, true))
          ? 'The broker has ended. Nodes and controllers are without it until bin/broker start.'
          : 'No broker runs for this data folder.',
      )
      return 0
    case 'status':
      console.log(
        running
          ? `The broker runs: ${running.host}:${running.port}, process ${running.pid}`
          : 'No broker runs for this data folder.',
      )
      return running ? 0 : 1
    default:
      console.error('bin/broker start | stop | status')
      return 2
  }
}
