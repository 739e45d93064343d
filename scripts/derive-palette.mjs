// Searches eight fills for threads: the largest smallest OKLab difference under normal sight and three simulated
// deficiencies (Machado, Oliveira, Fernandes 2009, severity 1), each at least 4.5:1 against paper and against a white
// tag.
const PAPER = [0xf6, 0xf3, 0xec]
const M = {
  normal: [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  protan: [
    [0.152286, 1.052583, -0.204868],
    [0.114503, 0.786281, 0.099216],
    [-0.003882, -0.048116, 1.051998],
  ],
  deutan: [
    [0.367322, 0.860646, -0.227968],
    [0.280085, 0.672501, 0.047413],
    [-0.01182, 0.04294, 0.968881],
  ],
  tritan: [
    [1.255528, -0.076749, -0.178779],
    [-0.078411, 0.930809, 0.147602],
    [0.004733, 0.691367, 0.3039],
  ],
}
const lin = (c) => (c / 255 <= 0.04045 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4)
const lum = (rgb) => 0.2126 * lin(rgb[0]) + 0.7152 * lin(rgb[1]) + 0.0722 * lin(rgb[2])
const contrast = (a, b) => {
  const [x, y] = [lum(a), lum(b)].sort((p, q) => q - p)
  return (x + 0.05) / (y + 0.05)
}
const clamp = (x) => Math.min(1, Math.max(0, x))
function oklab(linear) {
  const [r, g, b] = linear
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b)
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b)
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b)
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ]
}
const seen = (rgb) =>
  Object.values(M).map((m) => oklab(m.map((row) => clamp(row.reduce((s, k, i) => s + k * lin(rgb[i]), 0)))))
// Normal sight counts most users most of the time, so it is asked for 1.7 times the difference.
const dist = (a, b) => Math.min(...a.map((p, i) => Math.hypot(...p.map((v, k) => v - b[i][k])) / (i === 0 ? 1.7 : 1)))
let seed = 20261124
const rnd = () => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
  return seed / 2 ** 32
}
const candidates = []
for (let r = 0; r < 256; r += 15)
  for (let g = 0; g < 256; g += 15)
    for (let b = 0; b < 256; b += 15) {
      const rgb = [r, g, b]
      if (contrast(rgb, PAPER) < 4.6 || contrast(rgb, [255, 255, 255]) < 4.6) continue
      const lab = oklab(rgb.map(lin))
      // threads are the only colour: too dark or too grey would read as ink
      if (lab[0] < 0.33 || Math.hypot(lab[1], lab[2]) < 0.085) continue
      candidates.push({ rgb, seen: seen(rgb) })
    }
let best = null
for (let start = 0; start < 60; start++) {
  let set = Array.from({ length: 8 }, () => candidates[Math.floor(rnd() * candidates.length)])
  const worst = (s) => {
    let w = Infinity,
      at = 0
    for (let i = 0; i < 8; i++)
      for (let j = 0; j < i; j++) {
        const d = dist(s[i].seen, s[j].seen)
        if (d < w) {
          w = d
          at = rnd() < 0.5 ? i : j
        }
      }
    return [w, at]
  }
  for (;;) {
    const [w, at] = worst(set)
    let improved = null
    for (const c of candidates) {
      const d = Math.min(...set.map((s, i) => (i === at ? Infinity : dist(s.seen, c.seen))))
      if (d > w + 1e-6 && (!improved || d > improved.d)) improved = { c, d }
    }
    if (!improved) break
    const next = set.map((s, i) => (i === at ? improved.c : s))
    if (worst(next)[0] < w - 1e-9) break
    set = next
    if (worst(set)[0] <= w + 1e-9 && rnd() < 0.02) break
  }
  const [w] = worst(set)
  if (!best || w > best.w) best = { w, set }
}
// Order: each next hue farthest from those before it, so that few threads are the easiest to tell apart.
const ordered = [best.set[0]]
while (ordered.length < 8)
  ordered.push(
    best.set
      .filter((c) => !ordered.includes(c))
      .sort(
        (a, b) =>
          Math.min(...ordered.map((o) => dist(o.seen, b.seen))) - Math.min(...ordered.map((o) => dist(o.seen, a.seen))),
      )[0],
  )
const hex = (rgb) =>
  '#' +
  rgb
    .map((v) => v.toString(16).padStart(2, '0'))
    .join('')
    .toUpperCase()
for (const c of ordered)
  console.log(
    hex(c.rgb),
    'on paper',
    contrast(c.rgb, PAPER).toFixed(2),
    'under white',
    contrast(c.rgb, [255, 255, 255]).toFixed(2),
  )
for (const [i, name] of Object.keys(M).entries()) {
  let w = Infinity,
    pair
  for (const a of ordered)
    for (const b of ordered) {
      const d = a === b ? Infinity : Math.hypot(...a.seen[i].map((v, k) => v - b.seen[i][k]))
      if (d < w) {
        w = d
        pair = [hex(a.rgb), hex(b.rgb)]
      }
    }
  console.log(name.padEnd(7), 'smallest OKLab difference', w.toFixed(3), pair.join(' '))
}
