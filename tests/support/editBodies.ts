import type { EditBody } from '../../src/core/edits/edit'

// Edits as tests write them down: short to name, whole to apply.

export const part = (partId: string, kind: string, channel?: string): EditBody => ({
  kind: 'add-part',
  partId,
  part: kind,
  label: partId,
  signals: channel ? [{ id: `s${partId}`, channel }] : [],
})
export const feed = (partId: string, terminal: string, rail: string | null): EditBody => ({
  kind: 'feed',
  partId,
  terminal,
  rail,
})
export const set = (partId: string, setting: string, value: string | number): EditBody => ({
  kind: 'set-part',
  partId,
  setting,
  value,
})
