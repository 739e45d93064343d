/**
 * Who may know whom, in this one place: a folder imports from its own files and from rows above its own, never from its
 * own row or below. `npm run lint` holds the product to it, `npm run layers` draws what is.
 */

/** Folders of `src/core`, the ones that know least first. */
export const CORE = [
  ['units', 'hash', 'palette', 'working', 'radio', 'references', 'senml', 'proof'],
  ['documents'],
  ['catalog'],
  ['calibration'],
  ['model'],
  ['shop'],
  ['surroundings'],
  ['lines', 'publish', 'conditioning', 'behaviour', 'bill'],
  ['trace', 'threshold', 'templates'],
  ['power', 'pins'],
  ['wiring'],
  ['drivers', 'edits'],
  ['alternatives', 'nodefile', 'calculations'],
  ['bundle', 'energy'],
  ['startup', 'image'],
  ['checks'],
  ['loom', 'proposals', 'bringup', 'labels'],
  ['derive'],
]

/** Folders of `src`. Stand-ins, benches and tests stand outside: nothing of the product imports from them. */
export const PRODUCT = [
  ['core'],
  ['wire', 'workers', 'cable', 'proving'],
  ['server', 'ui'],
  ['broker', 'demo'],
  ['cli', 'host'],
  ['app'],
]

/** Packages that carry: the core computes and knows none of them. */
export const PLATFORM = ['react', 'react-dom', 'react-bootstrap', 'next', '@electric-sql', 'aedes', 'mqtt', 'zustand']
