/** Tokens that are spent one by one and come back with time. */
interface Bucket {
  tokens: number
  atMs: number
}
interface Rate {
  most: number
  perS: number
}

/** What one who asks may try, what all together may, and what is kept beside for those who have tried little so far. */
const OF_ONE: Rate = { most: 8, perS: 0.1 }
const OF_ALL: Rate = { most: 60, perS: 2 }
const OF_NEW: Rate = { most: 60, perS: 2 }
const FEW = OF_ONE.most - 3
const KNOWN = 20_000

/**
 * Bounds attempts at a password. Each counts when it begins, whatever comes of it. Who has hardly tried yet is answered
 * while others flood; who has tried often waits. Times in ms.
 */
export class Attempts {
  private ones = new Map<string, Bucket>()
  private all: Bucket = { tokens: OF_ALL.most, atMs: 0 }
  private fresh: Bucket = { tokens: OF_NEW.most, atMs: 0 }

  /** 0 when the attempt may be made now, which spends it; else the seconds until it may. */
  begin(who: string, now: number): number {
    const one = this.ones.get(who) ?? { tokens: OF_ONE.most, atMs: now }
    this.keep(who, one)
    fill(one, OF_ONE, now)
    if (one.tokens < 1) return waits(one, OF_ONE)
    const [shared, rate] = one.tokens > FEW ? [this.fresh, OF_NEW] : [this.all, OF_ALL]
    fill(shared, rate, now)
    if (shared.tokens < 1) return waits(shared, rate)
    shared.tokens -= 1
    one.tokens -= 1
    return 0
  }

  /** It was right: whoever knows the password is no guesser. */
  right(who: string): void {
    this.ones.delete(who)
  }

  private keep(who: string, one: Bucket): void {
    this.ones.delete(who)
    this.ones.set(who, one)
    const [oldest] = this.ones.keys()
    if (this.ones.size > KNOWN && oldest !== undefined) this.ones.delete(oldest)
  }
}

function fill(bucket: Bucket, { most, perS }: Rate, now: number): void {
  bucket.tokens = Math.min(most, bucket.tokens + (Math.max(0, now - bucket.atMs) / 1000) * perS)
  bucket.atMs = now
}

const waits = (bucket: Bucket, { perS }: Rate) => Math.max(1, Math.ceil((1 - bucket.tokens) / perS))

/** Whom an address belongs to: the 64 bits of an IPv6 network are one household. */
export function household(address: string): string {
  const plain = address.replace(/^::ffff:/i, '')
  return plain.includes(':') ? plain.toLowerCase().split(':').slice(0, 4).join(':') : plain
}
