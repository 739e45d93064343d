interface Memory {
  _malloc(bytes: number): number
  _free(at: number): void
}

/** What is left for the calls between the two worlds: pieces too small for the collector to take as another heap. */
const SPARE = { pieces: 64, bytes: 2048 }

/**
 * Makes the heap the interpreter was started with the last it gets: growth is refused and what is spare is filled, but
 * for small pieces. After this an allocation that does not fit raises MemoryError, as on a board.
 */
export function limitHeap(mp: object): void {
  const memory = (mp as { _module: Memory })._module
  WebAssembly.Memory.prototype.grow = () => {
    throw new RangeError('this memory does not grow')
  }
  const spare: number[] = []
  for (let i = 0; i < SPARE.pieces * 2; i++) spare.push(memory._malloc(SPARE.bytes))
  for (let bytes = 2 ** 24; bytes >= 256; bytes /= 2)
    while (memory._malloc(bytes) !== 0) {
      /* filled */
    }
  // Every second one is given back, so that no two lie side by side.
  spare.forEach((at, i) => {
    if (i % 2 === 0) memory._free(at)
  })
}
