'use client'
import { isKey } from '@/core/catalog/drivers'
import { useCallback, useMemo, useRef } from 'react'
import type { PartKind } from '@/core/catalog/part'
import { searchParts } from '@/core/catalog/searchParts'
import { slugFrom } from '@/core/model/slug'
import type { EditBody } from '@/core/edits/edit'
import { freeLabel, plainName } from '@/core/edits/freeLabel'
import { wishedEdits, wishedName } from '@/core/edits/wished'
import { editAll, newId, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { type Choice, Chooser } from '@/ui/shell/Chooser'

/** From a wish in a word to a part with its signals, lines and pins. */
export function AddPart({ view, show, onHide }: { view: NodeView; show: boolean; onHide: () => void }) {
  const { node, catalog } = view
  const choices = useMemo(() => Object.values(catalog.parts).map(choiceOf), [catalog])
  const wish = useRef('')
  const search = useCallback(
    (text: string) => {
      wish.current = text
      return searchParts(catalog, text).map(choiceOf)
    },
    [catalog],
  )
  return (
    <Chooser
      show={show}
      title="What should it know or do?"
      hint="level, press, pump, temperature …"
      choices={choices}
      search={search}
      onHide={() => {
        wish.current = ''
        onHide()
      }}
      onChoose={(c) => {
        onHide()
        const kind = catalog.parts[c.id]
        const asked = wish.current
        wish.current = ''
        if (kind && editAll(node.id, addPartEdits(view, kind, asked))) say(`${kind.name} added.`)
      }}
    />
  )
}

function choiceOf(p: PartKind): Choice {
  return { id: p.id, name: p.name, detail: p.summary, words: p.finds.join(' ') }
}

/**
 * Adds one part of this kind with all its channels as signals, under names that are free, and with what the words it
 * was asked for say about it.
 */
export function addPartEdits({ node: { design } }: NodeView, kind: PartKind, wish: string): EditBody[] {
  const label = freeLabel(plainName(kind), design)
  const slugs = Object.values(design.signals).map((s) => s.slug)
  const add = {
    kind: 'add-part' as const,
    partId: newId(),
    part: kind.id,
    label,
    // A pad of many keys makes none of them known by itself: each is named when it has a meaning.
    signals: kind.channels
      .filter((c) => !isKey(c.driver))
      .map((c) => {
        const slug = slugFrom(wishedName(c, wish), slugs)
        slugs.push(slug)
        return { id: newId(), channel: c.id, name: slug.replaceAll('-', ' '), slug }
      }),
  }
  return [add, ...wishedEdits(kind, add, wish)]
}
