import { createHash } from 'node:crypto'
import { describe, expect, test } from 'vitest'
import { after, blank } from '../support/designs'
import { modelledBoard, planned } from '../support/modelledBoard'

const DER = '3082' + '5a'.repeat(400)
const PRINT = createHash('sha256').update(Buffer.from(DER, 'hex')).digest('hex')
const design = planned(
  after(blank(), { kind: 'connect', ref: 'house', address: 'lease', fixed: null, keepAliveS: 10, secure: true }),
)
const b = await modelledBoard(design, { print: PRINT })

describe('TLS to the broker', () => {
  test('the right certificate by its print, with the clock unknown; the handshake is the one long wait, below the watchdog', () => {
    b.broker.der = DER
    b.until(() => b.heard('status').at(-1) === '{"is":"online"}', 30_000)
    expect(b.board.longestModelledMs).toBeGreaterThan(1000)
    expect(b.board.longestModelledMs).toBeLessThan(8000)
    expect(b.board.starts).toEqual(['power'])
  })
  test('another certificate is refused before a byte of the login is sent, and said once it is the right one again', () => {
    b.broker.setUp(false)
    b.broker.der = `${DER.slice(0, -2)}00`
    b.pass(1000)
    b.broker.setUp(true)
    b.broker.taken.length = 0
    b.pass(60_000)
    expect(b.broker.taken).toEqual([])
    expect(b.broker.connected).toBe(false)
    b.broker.der = DER
    b.until(() => b.heard('status').at(-1) === '{"is":"online"}', 60_000)
  })
})
