/**
 * Draws who imports whom among the folders of `src/core`, as the files say and not as `layers.mjs` wishes, into
 * docs/layers.svg. Ends with 1 when there is a circle. Of two ways from a folder to another only the longest is drawn.
 */
import { writeFileSync } from 'node:fs'
import { cruise } from 'dependency-cruiser'
import extractTsConfig from 'dependency-cruiser/config-utl/extract-ts-config'
import { CORE } from '../layers.mjs'

const { output } = await cruise(
  ['src/core'],
  { tsPreCompilationDeps: true, doNotFollow: { path: '^node_modules' }, includeOnly: '^src/core/' },
  {},
  { tsConfig: extractTsConfig('tsconfig.json') },
)
const folderOf = (file) => file.split('/')[2]
const edges = new Map()
for (const { source, dependencies } of output.modules) {
  const from = folderOf(source)
  for (const { resolved } of dependencies) {
    const to = folderOf(resolved)
    if (to === from || !resolved.startsWith('src/core/')) continue
    edges.set(from, (edges.get(from) ?? new Set()).add(to))
  }
}
const knows = (folder) => [...(edges.get(folder) ?? [])]
const reaches = (from, to, on = new Set()) =>
  knows(from).some((next) => next === to || (!on.has(next) && reaches(next, to, on.add(next))))
const circles = [...edges.keys()].filter((folder) => reaches(folder, folder))

const [ROW, COLUMN, BOX, EDGE] = [64, 150, { w: 112, h: 28 }, 20]
const width = Math.max(...CORE.map((row) => row.length)) * COLUMN + EDGE
const place = new Map(
  [...CORE]
    .reverse()
    .flatMap((row, y) =>
      row.map((folder, x) => [
        folder,
        { x: width / 2 + (x - (row.length - 1) / 2) * COLUMN, y: EDGE + BOX.h / 2 + y * ROW },
      ]),
    ),
)
const lines = [...place.keys()].flatMap((from) =>
  knows(from)
    .filter((to) => !knows(from).some((via) => via !== to && reaches(via, to)))
    .map((to) => {
      const [a, b] = [place.get(from), place.get(to)]
      const bend = (b.y - a.y) / 2
      return `<path d="M${a.x} ${a.y + BOX.h / 2}C${a.x} ${a.y + bend} ${b.x} ${b.y - bend} ${b.x} ${b.y - BOX.h / 2}"/>`
    }),
)
const boxes = [...place].map(
  ([folder, { x, y }]) =>
    `<rect x="${x - BOX.w / 2}" y="${y - BOX.h / 2}" width="${BOX.w}" height="${BOX.h}" rx="4"/>` +
    `<text x="${x}" y="${y + 5}">${folder}</text>`,
)
const height = CORE.length * ROW
writeFileSync(
  'docs/layers.svg',
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" font-family="sans-serif" font-size="14">
<rect width="${width}" height="${height}" fill="#fff"/>
<g fill="none" stroke="#8a94a0">\n${lines.join('\n')}\n</g>
<g fill="#eef2f6" stroke="#4b5560" text-anchor="middle">\n${boxes.join('\n').replaceAll('<text', '<text fill="#111" stroke="none"')}\n</g>
</svg>\n`,
)
const count = [...edges.values()].reduce((n, to) => n + to.size, 0)
console.log(
  `${place.size} folders, ${count} imports between them, ${circles.length} in a circle${circles.length ? `: ${circles.join(', ')}` : ''}`,
)
process.exit(circles.length > 0 ? 1 : 0)
