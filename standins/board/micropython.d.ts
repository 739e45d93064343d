declare module '@micropython/micropython-webassembly-pyscript' {
  interface Runtime {
    FS: {
      mkdir(path: string): void
      writeFile(path: string, data: Uint8Array | string): void
      readFile(path: string): Uint8Array
    }
    globals: { get(name: string): unknown }
    registerJsModule(name: string, module: Record<string, unknown>): void
    runPython(code: string): void
  }
  export function loadMicroPython(options?: {
    stdout?: (line: string) => void
    stderr?: (line: string) => void
    linebuffer?: boolean
    heapsize?: number
  }): Promise<Runtime>
}
