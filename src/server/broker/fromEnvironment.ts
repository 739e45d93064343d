import { DEFAULT_ROOT } from '../../core/publish/topics'
import { brokerFolderOf, type BrokerWanted } from './brokerProcess'

type Environment = Readonly<Record<string, string | undefined>>

/** Certificate and key of the user's, where both are named. */
export function tlsFrom({ VIVID_TLS_CERT, VIVID_TLS_KEY, MQTTS_PORT }: Environment): BrokerWanted['tls'] {
  return VIVID_TLS_CERT && VIVID_TLS_KEY
    ? { port: Number(MQTTS_PORT ?? 8883), certFile: VIVID_TLS_CERT, keyFile: VIVID_TLS_KEY }
    : null
}

/** The broker of a data folder as the environment wants it: VIVID_HOST, MQTT_PORT, MQTTS_PORT, VIVID_TLS_CERT and _KEY. */
export function brokerFrom(env: Environment, project: string, dataFolder: string): BrokerWanted {
  return {
    project,
    folder: brokerFolderOf(dataFolder),
    host: env.VIVID_HOST || '127.0.0.1',
    port: Number(env.MQTT_PORT ?? 1883),
    root: DEFAULT_ROOT,
    tls: tlsFrom(env),
    ends: false,
  }
}
