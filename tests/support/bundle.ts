import { execFileSync } from 'node:child_process'
import fs from 'node:fs'
import os from 'node:os'
import path from 'node:path'

/** Bundles what runs outside the pages, and gives all tests one temporary folder that goes with the last of them. */
export default function setup(): () => void {
  // Whoever runs several parts beside each other has bundled before: nothing is written anew under somebody's hands.
  if (process.env.VIVID_BUNDLED !== 'yes') execFileSync(process.execPath, ['scripts/bundle.mjs'], { stdio: 'inherit' })
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'vivid-tests-'))
  process.env.TMPDIR = folder
  return () => fs.rmSync(folder, { recursive: true, force: true, maxRetries: 3 })
}
