import net from 'node:net'
import { freePort } from './product'

/** A line to a port that can be held: nothing goes through any more in either way, and nobody is told. */
export async function heldLine(target: number) {
  const port = await freePort()
  const open = new Set<net.Socket>()
  let held = false
  const server = net.createServer((near) => {
    if (held) return void near.destroy()
    const far = net.connect(target, '127.0.0.1')
    for (const [a, b] of [
      [near, far],
      [far, near],
    ] as const) {
      open.add(a)
      a.on('data', (bytes) => {
        if (!held) b.write(bytes)
      })
      a.on('error', () => undefined)
      a.on('close', () => {
        open.delete(a)
        if (!held) b.destroy()
      })
    }
  })
  await new Promise<void>((r) => server.listen(port, '127.0.0.1', r))
  return {
    port,
    hold: () => {
      held = true
    },
    free: () => {
      held = false
      for (const s of open) s.destroy()
    },
    end: () =>
      new Promise<void>((r) => {
        held = false
        for (const s of open) s.destroy()
        server.close(() => r())
      }),
  }
}
