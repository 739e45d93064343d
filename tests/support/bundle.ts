import { execFileSync } from 'node:child_process'

/** The database thread and the stand-ins run as they are shipped: bundled. */
export default function setup(): void {
  execFileSync(process.execPath, ['scripts/bundle.mjs'], { stdio: 'inherit' })
}
