import { createHash } from 'node:crypto'
import fs from 'node:fs'
import Module from 'node:module'
import path from 'node:path'
import { Script } from 'node:vm'

/** Where a require led, and the code of each file it led to. */
interface Head {
  madeOf: string
  /** Of the code: the engine itself would run what a disk has garbled. */
  sum: string
  /** By folder and request, a line break between them: the file. */
  found: Record<string, string>
  files: Record<string, { size: number; ms: number; at: number; length: number }>
}

type Load = (module: LoadedModule, file: string) => void
interface LoadedModule extends NodeJS.Module {
  _compile(content: string, file: string, format?: string): unknown
}
/** What Node's module loader leaves open to be replaced; the same in all of Node 20. */
interface Loader {
  _extensions: Record<string, Load>
  _resolveFilename(request: string, parent: LoadedModule | undefined, isMain: boolean, options?: object): string
  _resolveLookupPaths(request: string, parent: LoadedModule): string[] | null
  _cache: NodeJS.Dict<NodeJS.Module>
  prototype: LoadedModule
  wrap(content: string): string
  enableCompileCache?(folder: string): unknown
}
const loader = Module as unknown as Loader

/**
 * Code that imports at run time loses the way back to the importer when it comes out of a cache: it is compiled anew.
 */
const IMPORTS = /\bimport\s*\(/
const NODE_WITHOUT_ITS_OWN = '20.'
const sumOf = (parts: Buffer[]) => parts.reduce((hash, part) => hash.update(part), createHash('sha1')).digest('hex')

/**
 * Keeps what compiling the server's modules gave, and where each require led, in one file from start to start: it
 * halves the time modules take. A file that has changed in size or date is compiled as ever, as is everything when
 * `madeOf` is another. Later releases of Node have such a cache of their own and use that. Returns what writes the file
 * if there is something new to keep.
 */
export function rememberCompiled(folder: string, madeOf: string): () => void {
  if (loader.enableCompileCache) {
    loader.enableCompileCache(folder)
    return () => undefined
  }
  if (!process.versions.node.startsWith(NODE_WITHOUT_ITS_OWN)) return () => undefined
  const file = path.join(folder, `${process.version}-${process.arch}`)
  const { head, code } = read(file, madeOf)
  const found = new Map(Object.entries(head.found))
  /** Compiled anew in this run. */
  const scripts = new Map<string, { script: Script; size: number; ms: number }>()
  /** A request has led somewhere it was not known to lead. */
  let news = false

  const resolve = loader._resolveFilename
  loader._resolveFilename = (request, parent, isMain, options) => {
    if (!parent?.filename || isMain || options || Module.isBuiltin(request))
      return resolve.call(loader, request, parent, isMain, options)
    const key = `${path.dirname(parent.filename)}\n${request}`
    const known = found.get(key)
    if (known !== undefined && (loader._cache[known] || unchanged(known))) return known
    const to = resolve.call(loader, request, parent, isMain, options)
    found.set(key, to)
    news = true
    return to
  }

  const now = new Map<string, { size: number; ms: number }>()
  const stat = (name: string) => {
    let is = now.get(name)
    if (!is) {
      const { size, mtimeMs } = fs.statSync(name)
      now.set(name, (is = { size, ms: mtimeMs }))
    }
    return is
  }
  const unchanged = (name: string) => {
    const was = head.files[name]
    if (!was) return fs.existsSync(name)
    try {
      const is = stat(name)
      return is.size === was.size && is.ms === was.ms
    } catch {
      return false
    }
  }

  const load = loader._extensions['.js']!
  loader._extensions['.js'] = (module, name) => {
    if (head.files[name] && unchanged(name)) module._compile(fs.readFileSync(name, 'utf8'), name, 'commonjs')
    else load(module, name)
  }

  const compile = loader.prototype._compile
  loader.prototype._compile = function (content, name, format) {
    const was = head.files[name]
    const kept = was && unchanged(name) ? code.subarray(was.at, was.at + was.length) : undefined
    if (!kept && (format === 'module' || !name.endsWith('.js') || IMPORTS.test(content)))
      return compile.call(this, content, name, format)
    let script: Script
    try {
      script = new Script(loader.wrap(content), { filename: name, cachedData: kept })
    } catch {
      // Not CommonJS after all, or wrong: Node says what it is.
      return compile.call(this, content, name, format)
    }
    // What was kept stays as it is: the engine drops code that has not run for long, and a later copy would be the
    // poorer one.
    if (!kept || script.cachedDataRejected) scripts.set(name, { script, ...stat(name) })
    const run = script.runInThisContext() as (...given: unknown[]) => unknown
    return run.call(this.exports, this.exports, requireFor(this), this, name, path.dirname(name))
  }

  return () => {
    if (!news && scripts.size === 0) return
    const parts: Part[] = Object.entries(head.files)
      .filter(([name]) => !scripts.has(name) && unchanged(name))
      .map(([name, { size, ms, at, length }]) => ({ name, size, ms, code: code.subarray(at, at + length) }))
    for (const [name, { script, size, ms }] of scripts) parts.push({ name, size, ms, code: script.createCachedData() })
    write(file, madeOf, Object.fromEntries(found), parts)
  }
}

interface Part {
  name: string
  size: number
  ms: number
  code: Buffer
}

function requireFor(module: LoadedModule): NodeJS.Require {
  const require = (request: string) => module.require(request)
  const resolve = (request: string, options?: object) => loader._resolveFilename(request, module, false, options)
  resolve.paths = (request: string) => loader._resolveLookupPaths(request, module)
  return Object.assign(require, {
    resolve,
    main: process.mainModule,
    extensions: loader._extensions,
    cache: loader._cache,
  }) as NodeJS.Require
}

function read(file: string, madeOf: string): { head: Head; code: Buffer } {
  const nothing = { head: { madeOf, sum: '', found: {}, files: {} }, code: Buffer.alloc(0) }
  try {
    const whole = fs.readFileSync(file)
    const end = 4 + whole.readUInt32LE(0)
    const head = JSON.parse(whole.subarray(4, end).toString()) as Head
    const code = whole.subarray(end)
    return head.madeOf === madeOf && head.sum === sumOf([code]) ? { head, code } : nothing
  } catch {
    return nothing
  }
}

function write(file: string, madeOf: string, found: Record<string, string>, parts: Part[]): void {
  const head: Head = { madeOf, sum: sumOf(parts.map((p) => p.code)), found, files: {} }
  let at = 0
  for (const { name, size, ms, code } of parts) {
    head.files[name] = { size, ms, at, length: code.length }
    at += code.length
  }
  const text = Buffer.from(JSON.stringify(head))
  const length = Buffer.alloc(4)
  length.writeUInt32LE(text.length)
  try {
    fs.mkdirSync(path.dirname(file), { recursive: true })
    fs.writeFileSync(`${file}.${process.pid}`, Buffer.concat([length, text, ...parts.map((p) => p.code)]))
    fs.renameSync(`${file}.${process.pid}`, file)
  } catch {
    /* nothing is lost but time: a folder that cannot be written to is no reason to stop */
  }
}
