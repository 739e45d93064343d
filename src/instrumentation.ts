/** Runs once when the server starts: database, broker and ingest belong to this process. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME === 'nodejs') {
    const { boot } = await import('./host/boot')
    // Pages are served while the product starts: what they ask of it waits.
    void boot()
  }
}
