import { startBroker } from '../src/broker/broker'
import type { LoginCheck } from '../src/broker/loginCheck'
import type { BrokerLogin } from '../src/wire/brokerControl'

/** A broker by itself for the node `bench`: lets everybody in as that and keeps nothing. */
export function bareBroker(port: number) {
  const login: BrokerLogin = { name: 'n', role: 'node', node: 'x', salt: '', hash: '', nextSalt: null, nextHash: null }
  return startBroker({
    host: '127.0.0.1',
    port,
    root: 'vn',
    tls: null,
    store: null,
    access: () => ({ x: { publish: ['vn/bench/#'], hear: ['vn/time', 'vn/bench/+/set'] } }),
    onRefused: () => undefined,
    onNode: () => undefined,
    onAsk: () => Promise.resolve(),
    logins: { check: () => Promise.resolve(login) } as unknown as LoginCheck,
  })
}
