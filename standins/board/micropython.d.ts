declare module '@micropython/micropython-webassembly-pyscript' {
  interface Runtime {
    FS: {
      readdir(path: string): string[]
      mkdir(path: string): void
      writeFile(path: string, data: Uint8Array | string): void
      readFile(path: string): Uint8Array
      readdir(path: string): string[]
      stat(path: string): { mode: number }
      isDir(mode: number): boolean
      unlink(path: string): void
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
