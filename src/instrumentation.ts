/** Runs once when the server starts: database, broker and ingest belong to this process. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs' || process.env.NEXT_PHASE === 'phase-production-build') return
  const { startProduct } = await import('./server/instance')
  const { onStop } = await import('./server/onStop')
  try {
    onStop(await startProduct())
  } catch (e) {
    console.error(`Vivid Node cannot start: ${e instanceof Error ? e.message : String(e)}`)
    process.exit(1)
  }
}
