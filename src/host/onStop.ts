/**
 * A clean stop on a signal, or when the process that started this one is gone: everything gathered is written first.
 */
export function onStop(): void {
  let stopping = false
  const stop = () => {
    if (stopping) return
    stopping = true
    setTimeout(() => process.exit(1), 5000).unref()
    Promise.resolve(globalThis.vividNode?.starting)
      .then((p) => p?.stop())
      .then(
        () => process.exit(process.exitCode),
        () => process.exit(1),
      )
  }
  process.once('SIGINT', stop)
  process.once('SIGTERM', stop)
  process.once('disconnect', stop)
}
