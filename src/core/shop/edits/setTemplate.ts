import { z } from 'zod'
import { idSchema } from '../../model/design'
import { MOST_TEMPLATES, templateSchema } from '../../model/template'
import { shopEdit } from '../shopEdit'

/** A form in which a controller wants to be told of entities; null drops it. */
export const setTemplate = shopEdit({
  schema: z.strictObject({
    kind: z.literal('set-template'),
    templateId: idSchema,
    template: templateSchema.nullable(),
  }),
  touches: ['templates'],
  apply: (shop, { templateId, template }) => {
    const { [templateId]: known, ...others } = shop.templates
    if (template === null)
      return known
        ? { ...shop, templates: others }
        : { refused: 'this template is no longer in the shop', accepts: 'one that is' }
    if (!known && Object.keys(others).length >= MOST_TEMPLATES)
      return { refused: 'too many templates', accepts: `at most ${MOST_TEMPLATES}` }
    return { ...shop, templates: { ...others, [templateId]: template } }
  },
  words: ({ template, templateId }, shop) =>
    template === null
      ? `drop template “${shop.templates[templateId]?.name ?? ''}”`
      : `template “${template.name}”${template.on ? '' : ', not published'}`,
})
