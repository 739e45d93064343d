'use client'
import { useRouter } from 'next/navigation'
import { useMemo } from 'react'
import { inOrder } from '../../core/model/design'
import { useLive } from '../live/store'
import { benchPlaces, shopPlaces } from './places'
import { type Choice, Chooser } from './Chooser'

/** Finds nodes, their signals, parts and benches. */
export function Finder({ show, onHide }: { show: boolean; onHide: () => void }) {
  const router = useRouter()
  const nodes = useLive((s) => s.nodes)
  const demo = useLive((s) => s.demo)
  const places = useLive((s) => s.shop.places)
  const choices = useMemo(
    () => [
      ...shopPlaces(demo).map((p) => ({ id: p.href, name: p.name, detail: 'place of the shop', words: '' })),
      ...Object.values(nodes).flatMap(({ design }): Choice[] => [
        {
          id: `/node/${design.slug}`,
          name: design.name,
          detail: `node · ${(design.place !== null && places[design.place]?.name) || 'no place yet'}`,
          words: '',
        },
        ...inOrder(design.signals).map(({ id, value: s }) => ({
          id: `/node/${design.slug}?thread=${id}`,
          name: `${s.tag} ${s.name}`,
          detail: `signal of ${design.name}`,
          words: s.slug,
        })),
        ...inOrder(design.parts).map(({ id, value: p }) => ({
          id: `/node/${design.slug}/parts#${id}`,
          name: p.label,
          detail: `part of ${design.name}`,
          words: p.kind,
        })),
        ...benchPlaces(design.slug).map((p) => ({
          id: p.href,
          name: p.name,
          detail: `bench of ${design.name}`,
          words: '',
        })),
      ]),
    ],
    [nodes, places, demo],
  )
  const go = (c: Choice) => {
    onHide()
    router.push(c.id)
  }
  return (
    <Chooser
      show={show}
      title="Find anything"
      hint="a node, a tag, a part, a place"
      choices={choices}
      onChoose={go}
      onHide={onHide}
    />
  )
}
