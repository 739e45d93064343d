import { randomBytes, timingSafeEqual } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { z } from 'zod'
import { writeForGood } from '../files/flush'
import { signer } from '../secrets/sealer'
import { Attempts, household } from './attempts'
import { tellToWait } from './door'

/**
 * Beyond this machine the shop asks for one password; the cookie says from when until when the browser has given it.
 */
export const SESSION_COOKIE = 'vivid-session'
/** A browser that has given it once is known again, and does not stand behind those who guess. It opens nothing. */
const KNOWN_COOKIE = 'vivid-known'
/** Set by the server that takes the connection; what a client sends under this name is thrown away. */
export const ADDRESS_HEADER = 'x-vivid-address'
const LASTS_S = 30 * 86_400
const KNOWN_S = 365 * 86_400

let known: { password: string; signer: ReturnType<typeof signer> } | null = null

declare global {
  /** Sessions begun before this moment, ms, are over. Pages and start-up code share it. */
  var vividSessionsSince: number | undefined
}

function shop() {
  const password = process.env.VIVID_SHOP_PASSWORD
  // One of blanks is none.
  if (!password?.trim()) return null
  if (known?.password !== password) known = { password, signer: signer(password) }
  return known
}

/** True when a password is asked for at all. */
export const isLocked = (): boolean => shop() !== null

function sessionsFile(): string | null {
  const { VIVID_DATA } = process.env
  return VIVID_DATA ? path.join(VIVID_DATA, 'sessions.json') : null
}

function since(): number {
  if (globalThis.vividSessionsSince !== undefined) return globalThis.vividSessionsSince
  const file = sessionsFile()
  const kept =
    file && fs.existsSync(file)
      ? z.object({ since: z.number() }).safeParse(JSON.parse(fs.readFileSync(file, 'utf8')))
      : null
  globalThis.vividSessionsSince = kept?.success ? kept.data.since : 0
  return globalThis.vividSessionsSince
}

/** Ends every session begun so far, on every browser, also over a restart. */
export function endAllSessions(now = Date.now()): void {
  const file = sessionsFile()
  if (file) writeForGood(file, JSON.stringify({ since: now }))
  globalThis.vividSessionsSince = now
}

/** True when no password is asked for, or the cookie proves that it was given. */
export function mayEnter(cookie: string | undefined, now = Date.now()): boolean {
  const asked = shop()
  if (!asked) return true
  const [times = '', mark = ''] = (cookie ?? '').split('.')
  const [from = 0, until = 0] = times.split('-').map(Number)
  return same(mark, asked.signer.mark(times)) && until * 1000 > now && from >= since()
}

const attempts = new Attempts()

export type Entered = { kind: 'in'; cookies: string[] } | { kind: 'wrong' } | { kind: 'wait'; seconds: number }

/**
 * What comes of an attempt at the password. It counts when it begins: by the browser where it is known, else by the
 * address.
 */
export function enter(password: string, request: Request, now = Date.now()): Entered {
  const asked = shop()
  if (!asked) return { kind: 'wrong' }
  const browser = knownBrowser(request.headers.get('cookie') ?? '')
  const who = browser ?? household(request.headers.get(ADDRESS_HEADER) ?? '')
  const seconds = attempts.begin(who, now)
  if (seconds > 0) {
    if (browser === null) tellToWait(who, seconds, now)
    return { kind: 'wait', seconds }
  }
  if (!same(asked.signer.mark(password), asked.signer.mark(asked.password))) return { kind: 'wrong' }
  attempts.right(who)
  const secure = request.headers.get('origin')?.startsWith('https:') ? '; Secure' : ''
  const how = (lasts: number) => `Path=/; HttpOnly; SameSite=Strict; Max-Age=${lasts}${secure}`
  const times = `${now}-${Math.floor(now / 1000) + LASTS_S}`
  return {
    kind: 'in',
    cookies: [
      `${SESSION_COOKIE}=${asked.signer.sign(times)}; ${how(LASTS_S)}`,
      `${KNOWN_COOKIE}=${asked.signer.sign(`known-${randomBytes(9).toString('hex')}`)}; ${how(KNOWN_S)}`,
    ],
  }
}

/** The cookies that end this browser's session. */
export const leave = (): string => `${SESSION_COOKIE}=; Path=/; HttpOnly; SameSite=Strict; Max-Age=0`

/** The name of the browser these cookies come from, when it has given the password before; null when it has not. */
export function knownBrowser(cookies: string): string | null {
  const [name = '', mark = ''] = (cookieOf(cookies, KNOWN_COOKIE) ?? '').split('.')
  const asked = shop()
  return asked && name.startsWith('known-') && same(mark, asked.signer.mark(name)) ? name : null
}

export function sessionOf(request: Request): string | undefined {
  return cookieOf(request.headers.get('cookie') ?? '', SESSION_COOKIE)
}

function cookieOf(cookies: string, name: string): string | undefined {
  return cookies
    .split(/; */)
    .find((c) => c.startsWith(`${name}=`))
    ?.slice(name.length + 1)
}

function same(a: string, b: string): boolean {
  const [x, y] = [Buffer.from(a), Buffer.from(b)]
  return x.length === y.length && timingSafeEqual(x, y)
}
