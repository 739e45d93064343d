import type { EditBody } from '../edits/edit'
import type { AddedComponent } from '../model/design'
import type { Remedy } from './finding'

/** What one edit puts right. */
export const byOne = (label: string, edit: EditBody): Remedy => ({ label, edits: [edit] })

/** A component more. */
export const adding = (label: string, componentId: string, component: AddedComponent): Remedy =>
  byOne(label, { kind: 'add-component', componentId, component })

/** Another component in place of one; without one to replace it is added. */
export const replacing = (
  label: string,
  old: string | undefined,
  componentId: string,
  component: AddedComponent,
): Remedy => ({
  label,
  edits: [
    ...(old === undefined ? [] : [{ kind: 'remove-component' as const, componentId: old }]),
    { kind: 'add-component', componentId, component },
  ],
})

/** A supply terminal fed from another rail; without one from nothing. */
export const feeding = (
  label: string,
  { partId, terminal }: { partId: string; terminal: string },
  rail: string | null,
): Remedy => byOne(label, { kind: 'feed', partId, terminal, rail })
