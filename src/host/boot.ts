import { startProduct } from './instance'
import { onStop } from './onStop'

/** Starts the product with the server, or ends the process with a sentence that says why not. */
export async function boot(): Promise<void> {
  try {
    const starting = startProduct()
    onStop()
    await starting
  } catch (e) {
    console.error(`Vivid Node cannot start: ${e instanceof Error ? e.message : String(e)}`)
    process.exit(1)
  }
}
