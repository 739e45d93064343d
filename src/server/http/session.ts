import { timingSafeEqual } from 'node:crypto'
import { signer } from '../secrets/sealer'

/** Beyond this machine the shop asks for one password; the cookie says until when the browser has given it. */
export const SESSION_COOKIE = 'vivid-session'
const LASTS_S = 30 * 86_400
const MISS_MS = 800

let known: { password: string; signer: ReturnType<typeof signer> } | null = null

function shop() {
  const password = process.env.VIVID_SHOP_PASSWORD
  if (!password) return null
  if (known?.password !== password) known = { password, signer: signer(password) }
  return known
}

/** True when no password is asked for, or the cookie proves that it was given. */
export function mayEnter(cookie: string | undefined, now = Date.now()): boolean {
  const asked = shop()
  if (!asked) return true
  const [until = '', mark = ''] = (cookie ?? '').split('.')
  return same(mark, asked.signer.mark(until)) && Number(until) * 1000 > now
}

/** The cookie to set for the right password, or null. Wrong ones wait their turn, one after the other. */
export async function enter(password: string, secure: boolean): Promise<string | null> {
  const asked = shop()
  if (!asked || !same(asked.signer.mark(password), asked.signer.mark(asked.password))) {
    misses = misses.then(() => new Promise((r) => setTimeout(r, MISS_MS)))
    await misses
    return null
  }
  const until = String(Math.floor(Date.now() / 1000) + LASTS_S)
  return `${SESSION_COOKIE}=${asked.signer.sign(until)}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${LASTS_S}${secure ? '; Secure' : ''}`
}

let misses: Promise<unknown> = Promise.resolve()

export function sessionOf(request: Request): string | undefined {
  return (request.headers.get('cookie') ?? '').split(/; */).find((c) => c.startsWith(`${SESSION_COOKIE}=`))?.slice(SESSION_COOKIE.length + 1)
}

function same(a: string, b: string): boolean {
  const [x, y] = [Buffer.from(a), Buffer.from(b)]
  return x.length === y.length && timingSafeEqual(x, y)
}
