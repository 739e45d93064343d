import { Bursts } from '../src/core/radio/subghz/bursts'
import { familyFigures } from '../src/core/radio/subghz/family'
import { proposeFamily } from '../src/core/radio/subghz/propose'
import { seeded } from '../tests/support/chance'
import { codesInCore, codesOnBoard, damagedTrains } from '../tests/support/codesOnBoard'
import { played, session } from '../tests/support/learningSessions'
import { codeOf, cut, heardAs, inARow, madeUpFamily, said } from '../tests/support/trains'
import { twoGateways } from '../tests/support/twoGateways'

type Row = [string, string, string]
const percent = (share: number, digits = 1) => `${(100 * share).toFixed(digits)} %`

/** Decoding against jitter and noise, board against core, learning, finding families, and two gateways. */
export async function radio(rows: Row[]): Promise<void> {
  for (const sigma of [0.05, 0.1, 0.15, 0.2]) rows.push(jitter(sigma))
  rows.push(noise(3_000_000), await parity(100_000), learning(2000), families(20, 20_261_128))
  const { play } = await twoGateways()
  const whole = play({ bursts: 10_000, seed: 11, cuts: 0, hears: [0.9, 0.85] })
  rows.push([
    `two gateways, ${whole.heard} bursts of 24 senders, no cut`,
    `${whole.lost} lost, ${whole.doubled} doubled`,
    `${whole.claims} claims`,
  ])
  const cuts = 120
  const torn = play({ bursts: 10_000, seed: 12, cuts, hears: [0.9, 0.85] })
  rows.push([
    `the same, ${torn.heard} bursts, ${cuts} cuts`,
    `${torn.lost} lost, ${torn.doubled} doubled`,
    `${((torn.lost + torn.doubled) / cuts).toFixed(2)} a cut`,
  ])
}

function jitter(sigma: number): Row {
  const random = seeded(1)
  let [bursts, right, wrong] = [0, 0, 0]
  for (let n = 0; n < 1000; n++) {
    const family = madeUpFamily(random, n)
    const hearing = new Bursts(familyFigures(family))
    for (let k = 0; k < 5; k++) {
      const code = codeOf(family, random)
      const told = Array.from({ length: family.repeats }, (_, i) =>
        hearing.hear(heardAs(said(family, code), random, sigma * family.baseUs), 5000 * (n * 5 + k) + 60 * i),
      ).filter((b) => b !== null)
      bursts += 1
      if (told.some((t) => t === code)) right += 1
      wrong += told.filter((t) => t !== code).length
    }
  }
  return [
    `bursts decoded, every pulse off by σ = ${sigma} T`,
    percent(right / bursts, 2),
    `${wrong} wrong codes of ${bursts}`,
  ]
}

/** Frames of noise with as many pulses as some family’s: lengths of all kinds, and real frames with their pulses shuffled. */
function noise(count: number): Row {
  const random = seeded(2)
  const families = Array.from({ length: 12 }, (_, n) => madeUpFamily(random, n))
  const all = families.map((f) => new Bursts(familyFigures(f)))
  let wrong = 0
  for (let i = 0; i < count; i++) {
    const family = families[i % 12]
    if (!family) continue
    const { us: real, gapUs } = said(family, codeOf(family, random))
    const us =
      i % 3 === 0
        ? real.map(() => 80 + Math.floor(3400 * random() ** 2))
        : real.map(() => real[Math.floor(random() * real.length)] ?? 0)
    const frame = { us: us.map(Math.round), gapUs }
    wrong += all.filter((bursts) => bursts.hear(frame, 50 * i) !== null).length
  }
  return [`wrong codes in ${count / 1e6} million frames of noise`, String(wrong), '12 families listening']
}

async function parity(count: number): Promise<Row> {
  const onBoard = await codesOnBoard()
  const random = seeded(3)
  let [frames, bursts, differ] = [0, 0, 0]
  while (frames < count) {
    const job = damagedTrains(random, 400)
    const core = codesInCore(job.families, job.frames)
    const board = onBoard(job.families, job.frames)
    frames += core.length
    bursts += core.flat().filter((c) => c !== null).length
    differ += core.filter((c, i) => JSON.stringify(c) !== JSON.stringify(board[i])).length
  }
  return [`board against core, ${frames} damaged frames`, `${differ} differ`, `${bursts} bursts`]
}

function learning(count: number): Row {
  const random = seeded(4)
  const after: number[] = []
  let [wrong, none, deaf] = [0, 0, 0]
  for (let n = 0; n < count; n++) {
    const s = session(random)
    const end = played(s)
    if (end && end.winner !== s.meant) wrong += 1
    else if (end) after.push(end.after)
    else if (s.meant === null) deaf += 1
    else none += 1
  }
  const shares = Array.from({ length: 11 }, (_, i) => `${i + 2}: ${after.filter((a) => a === i + 2).length}`).join(', ')
  return [
    `${count} learning sessions`,
    `${wrong} wrong, ${none} undecided after 12 presses, ${deaf} of what cannot be heard left alone`,
    `presses needed ${shares}`,
  ]
}

/** Families that were made up after everything else was done. */
function families(count: number, seed: number): Row {
  const random = seeded(seed)
  const missed: string[] = []
  for (let n = 0; n < count; n++) {
    const family = madeUpFamily(random, n)
    const address = codeOf({ ...family, bits: family.bits - 3 }, random)
    const frames = (family.open ? ['f01', '10f', '110'] : ['001', '010', '111']).flatMap((end) => {
      const burst = Array.from({ length: family.repeats }, () =>
        heardAs(said(family, address + end), random, 0.06 * family.baseUs, 25),
      )
      return cut(inARow(burst.map((f, i) => (i === burst.length - 1 ? { ...f, gapUs: 99_999 } : f))))
    })
    const found = proposeFamily(frames)?.family
    const same =
      found !== undefined &&
      Math.abs(found.baseUs / family.baseUs - 1) < 0.08 &&
      JSON.stringify([found.bits, found.zero, found.one, found.open, found.lead.length]) ===
        JSON.stringify([family.bits, family.zero, family.one, family.open, family.lead.length])
    if (!same) missed.push(`${family.baseUs} µs ${family.zero.join('-')}/${family.one.join('-')} ${family.bits}`)
  }
  return [`families found rightly of ${count} made up last`, String(count - missed.length), missed.join('; ')]
}
