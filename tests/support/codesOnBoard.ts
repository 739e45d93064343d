import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { Bursts } from '../../src/core/radio/subghz/bursts'
import { type FamilyFigures, familyFigures } from '../../src/core/radio/subghz/family'
import { installRuntime } from '../../standins/board/board'
import { codeOf, heardAs, madeUpFamily, said } from './trains'

export interface Heard {
  us: readonly number[]
  gapUs: number
  atMs: number
}

/** The board's decoder on the interpreter it runs on: what it makes of frames in a row, by the same words as core. */
export async function codesOnBoard() {
  const lines: string[] = []
  const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true, heapsize: 8 << 20 })
  installRuntime(mp, { deviceDir: 'device', shimDir: 'standins/board/shims' })
  mp.registerJsModule('_world', { chip: '32-class' })
  mp.runPython(`
import json, gc, micropython
from array import array
from vn.codes import Bursts
def heard(text):
    job = json.loads(text)
    families = [Bursts(f, lambda a, b: a - b) for f in job['families']]
    out = []
    us = array('H', bytes(2 * 132))
    for f in job['frames']:
        n = len(f['us'])
        for i in range(n):
            us[i] = f['us'][i]
        gap, at = f['gapUs'], f['atMs']
        told = []
        for bursts in families:
            # Nothing may be asked of the memory: whoever does fails.
            micropython.heap_lock()
            try:
                got = bursts.hear(us, n, gap, at)
            finally:
                micropython.heap_unlock()
            told.append(str(bytes(bursts.code), 'utf-8') if got else None)
        out.append(told)
    print(json.dumps(out))
`)
  return (families: readonly FamilyFigures[], frames: readonly Heard[]) => {
    lines.length = 0
    const run = mp.globals.get('heard') as (text: string) => void
    run(JSON.stringify({ families, frames }))
    return JSON.parse(lines.join('')) as (string | null)[][]
  }
}

/** What core makes of the same. */
export function codesInCore(families: readonly FamilyFigures[], frames: readonly Heard[]) {
  const all = families.map((f) => new Bursts(f))
  return frames.map((f) => all.map((bursts) => bursts.hear(f, f.atMs)))
}

/**
 * Frames of one to four families in a row, most of them damaged somehow: jitter, other base lengths, pulses lost, split or
 * run together, tails of another frame, noise, repeats before and after the time that makes them one burst.
 */
export function damagedTrains(random: () => number, count: number): { families: FamilyFigures[]; frames: Heard[] } {
  const families = Array.from({ length: 1 + Math.floor(random() * 4) }, (_, n) => madeUpFamily(random, n))
  const codes = families.map((f) => [codeOf(f, random), codeOf(f, random)])
  const frames: Heard[] = []
  let atMs = 0
  for (let i = 0; i < count; i++) {
    const k = Math.floor(random() * families.length)
    const [family, own] = [families[k], codes[k]]
    if (!family || !own) continue
    const code = random() < 0.9 ? (own[Math.floor(random() * 2)] ?? '') : codeOf(family, random)
    const whole = heardAs(
      said(family, code, 0.55 + 1.1 * random() ** 0.7),
      random,
      family.baseUs * 0.25 * random(),
      40 * random(),
    )
    const us = damaged(
      whole.us.map((x) => Math.min(3499, x)),
      random,
    ).slice(0, 132)
    frames.push({ us, gapUs: Math.min(99_999, Math.round(whole.gapUs * (0.4 + random()))), atMs })
    atMs += random() < 0.9 ? Math.floor(30 + 60 * random()) : Math.floor(560 + 80 * random())
  }
  return { families: families.map(familyFigures), frames }
}

function damaged(us: number[], random: () => number): number[] {
  const at = Math.floor(random() * us.length)
  const kind = Math.floor(random() * 9)
  if (kind === 0) return us.slice(2 * Math.floor(random() * 8))
  if (kind === 1) return [...us.slice(0, at), ...us.slice(at + 2)]
  if (kind === 2)
    return [...us.slice(0, at), Math.floor((us[at] ?? 0) / 3), 60, Math.floor((us[at] ?? 0) / 3), ...us.slice(at + 1)]
  if (kind === 3) return us.map((x, i) => (i === at ? Math.floor(3499 * random()) : x))
  if (kind === 4 && random() < 0.3) return us.map(() => Math.floor(80 + 3000 * random()))
  return us
}
