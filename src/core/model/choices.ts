import { choiceIdFrom } from '../catalog/choiceId'
import type { Catalog } from '../catalog/catalog'
import type { Design } from './design'

/**
 * A design from before choices had ids: what it kept as their words is kept as their ids. The same design when there is
 * nothing of it.
 */
export function withChoiceIds(design: Design, catalog: Catalog): Design {
  const parts = Object.fromEntries(
    Object.entries(design.parts).map(([id, part]) => {
      const settings = { ...part.settings }
      let renamed = false
      for (const setting of catalog.parts[part.kind]?.settings ?? []) {
        const value = settings[setting.id]
        if (!('choices' in setting) || typeof value !== 'string' || setting.choices.some((c) => c.id === value))
          continue
        const found = setting.choices.find((c) => c.label === value || c.id === choiceIdFrom(value))
        if (!found) continue
        settings[setting.id] = found.id
        renamed = true
      }
      return [id, renamed ? { ...part, settings } : part] as const
    }),
  )
  return Object.entries(parts).some(([id, part]) => part !== design.parts[id]) ? { ...design, parts } : design
}
