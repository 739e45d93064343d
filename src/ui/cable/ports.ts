import { type CablePort, CableTrouble, NO_PORT } from '@/cable/port'
import { SocketPort } from '@/cable/socketPort'

/** Why this page has no serial ports, and what does instead; null where it has. */
export function whyNoSerial(): string | null {
  if (!window.isSecureContext)
    return `This page was reached as ${window.location.origin}. Browsers give serial ports only to pages at https, or at localhost on the same machine. At the machine Vivid Node runs on, open it as http://127.0.0.1${window.location.port ? `:${window.location.port}` : ''}; over the network start it with a certificate (VIVID_TLS_CERT, VIVID_TLS_KEY) and open its https address.`
  if (!('serial' in navigator))
    return 'This browser has no serial ports: those built on Chromium have, on a desktop computer.'
  return null
}

/** Asks the person which port; null when none was chosen. */
export async function choosePort(): Promise<CablePort | null> {
  try {
    return (await navigator.serial.requestPort()) as unknown as CablePort
  } catch (e) {
    if (e instanceof DOMException && e.name === 'NotFoundError') return null
    throw new CableTrouble('No port could be chosen.', NO_PORT)
  }
}

/** The demo's board at a cable, by way of the server. */
export function standInPort(): CablePort {
  return new SocketPort(
    () =>
      new Promise((done, failed) => {
        const socket = new WebSocket(
          `${window.location.protocol === 'https:' ? 'wss' : 'ws'}://${window.location.host}/api/cable`,
        )
        socket.binaryType = 'arraybuffer'
        socket.onerror = () =>
          failed(new CableTrouble('There is no port: the simulated board is not plugged in.', NO_PORT))
        socket.onopen = () =>
          done({
            send: (bytes) => {
              if (socket.readyState === WebSocket.OPEN) socket.send(bytes as Uint8Array<ArrayBuffer>)
            },
            onBytes: (take) => {
              socket.onmessage = (m: MessageEvent<ArrayBuffer>) => take(new Uint8Array(m.data))
            },
            onEnd: (ended) => {
              socket.onclose = ended
            },
            end: () => socket.close(),
          })
      }),
  )
}
