import net from 'node:net'
import { freePort } from './product'

/**
 * A line between a browser and a server that can be cut: connections end and new ones are refused until it is mended.
 */
export async function cutLine(target: string) {
  const port = await freePort()
  const open = new Set<net.Socket>()
  let cut = false
  const server = net.createServer((near) => {
    if (cut) return void near.destroy()
    const far = net.connect(Number(new URL(target).port), '127.0.0.1')
    for (const [a, b] of [
      [near, far],
      [far, near],
    ] as const) {
      open.add(a)
      a.pipe(b)
      a.on('error', () => b.destroy())
      a.on('close', () => {
        open.delete(a)
        b.destroy()
      })
    }
  })
  await new Promise<void>((r) => server.listen(port, '127.0.0.1', r))
  return {
    url: `http://127.0.0.1:${port}`,
    set: (off: boolean) => {
      cut = off
      if (off) for (const s of open) s.destroy()
    },
    end: () =>
      new Promise<void>((r) => {
        for (const s of open) s.destroy()
        server.close(() => r())
      }),
  }
}
