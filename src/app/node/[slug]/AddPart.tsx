'use client'
import { useMemo } from 'react'
import type { PartKind } from '@/core/catalog/part'
import { slugFrom } from '@/core/design/slug'
import type { EditBody } from '@/core/design/edit'
import { edit, newId, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Chooser } from '@/ui/shell/Chooser'

/** From a wish in a word to a part with its signals, lines and pins. */
export function AddPart({ view, show, onHide }: { view: NodeView; show: boolean; onHide: () => void }) {
  const { node, catalog } = view
  const choices = useMemo(() => Object.values(catalog.parts).map((p) => ({ id: p.id, name: p.name, detail: p.summary, words: p.finds.join(' ') })), [catalog])
  return (
    <Chooser
      show={show} title="What should it know or do?" hint="level, press, pump, temperature …" choices={choices} onHide={onHide}
      onChoose={(c) => {
        onHide()
        const kind = catalog.parts[c.id]
        if (kind && edit(node.id, addPartEdit(view, kind))) say(`${kind.name} added.`)
      }}
    />
  )
}

/** The edit that adds one part of this kind with all its channels as signals, under names that are free. */
export function addPartEdit({ node: { design } }: NodeView, kind: PartKind): EditBody {
  const labels = Object.values(design.parts).map((p) => p.label)
  const plain = kind.name.split(',')[0] ?? kind.name
  const label = [plain, ...Array.from({ length: 98 }, (_, i) => `${plain} ${i + 2}`)].find((l) => !labels.includes(l)) ?? plain
  const slugs = Object.values(design.signals).map((s) => s.slug)
  return {
    kind: 'add-part', partId: newId(), part: kind.id, label,
    signals: kind.channels.map((c) => {
      const slug = slugFrom(c.proposes.slug, slugs)
      return { id: newId(), channel: c.id, name: slug.replaceAll('-', ' '), slug }
    }),
  }
}
