import { CORE, PLATFORM, PRODUCT } from './layers.mjs'

/** One rule for each folder: nothing of its own row or a later one but itself. */
const rows = (root, layers) =>
  layers.flatMap((row, at) =>
    row.map((folder) => {
      const beyond = layers
        .slice(at)
        .flat()
        .filter((other) => other !== folder)
      return {
        name: `${root}/${folder} knows only what stands above it in layers.mjs`,
        severity: 'error',
        from: { path: `^${root}/${folder}/` },
        to: { path: `^${root}/(${beyond.join('|') || 'nothing'})/` },
      }
    }),
  )

const placed = (root, layers) => ({
  name: `every folder of ${root} has a place in layers.mjs`,
  severity: 'error',
  from: { path: `^${root}/`, pathNot: `^${root}/((${layers.flat().join('|')})/|[^/]+$)` },
  to: {},
})

/** @type {import('dependency-cruiser').IConfiguration} */
const config = {
  forbidden: [
    ...rows('src/core', CORE),
    ...rows('src', PRODUCT),
    placed('src/core', CORE),
    placed('src', PRODUCT),
    {
      name: 'the core computes; it knows no interface, server or platform',
      severity: 'error',
      from: { path: '^src/core/' },
      to: { path: `^node_modules/(${PLATFORM.join('|')})/` },
    },
    {
      name: 'the core knows nothing of Node',
      severity: 'error',
      from: { path: '^src/core/' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'no circles between files',
      severity: 'error',
      from: { path: '^src/' },
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'the product imports nothing from stand-ins, benches and tests',
      severity: 'error',
      from: { path: '^src/' },
      to: { path: '^(standins|bench|tests|demo)/' },
    },
    { name: 'what is imported is there', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: '^node_modules' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types', 'node', 'default'] },
  },
}
export default config
