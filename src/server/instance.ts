import path from 'node:path'
import { Product } from './product'

// Pages and start-up code are separate module instances: what there must be one of lives on globalThis.
interface Instance { starting: Promise<Product>; ready: Product | null; failed: string | null }

declare global {
  var vividNode: Instance | undefined
}

/** Starts the product once per process. */
export function startProduct(): Promise<Product> {
  if (globalThis.vividNode) return globalThis.vividNode.starting
  const { VIVID_DATA, MQTT_PORT, MQTTS_PORT, VIVID_TLS_CERT, VIVID_TLS_KEY, VIVID_OUTSIDE_PASSWORD, VIVID_CONTROLLER_PASSWORD, VIVID_STANDIN_PASSWORD } = process.env
  const project = process.cwd()
  const starting = Product.start({
    project,
    dataFolder: path.resolve(/* turbopackIgnore: true */ VIVID_DATA ?? path.join(/* turbopackIgnore: true */ project, 'data')),
    host: '127.0.0.1',
    mqttPort: Number(MQTT_PORT ?? 1883),
    tls: VIVID_TLS_CERT && VIVID_TLS_KEY ? { port: Number(MQTTS_PORT ?? 8883), certFile: VIVID_TLS_CERT, keyFile: VIVID_TLS_KEY } : null,
    demo: VIVID_OUTSIDE_PASSWORD && VIVID_CONTROLLER_PASSWORD && VIVID_STANDIN_PASSWORD
      ? { outsidePassword: VIVID_OUTSIDE_PASSWORD, controllerPassword: VIVID_CONTROLLER_PASSWORD, standinPassword: VIVID_STANDIN_PASSWORD }
      : null,
  })
  const instance: Instance = { starting, ready: null, failed: null }
  globalThis.vividNode = instance
  starting.then((p) => { instance.ready = p }, (e: unknown) => { instance.failed = e instanceof Error ? e.message : String(e) })
  return starting
}

/** The running product; waits while it starts. */
export function product(): Promise<Product> {
  return startProduct()
}
