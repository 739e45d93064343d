import fs from 'node:fs'
import { describe, expect, test } from 'vitest'
import { DRIVERS, driversFor, traitsOf } from '../../src/core/catalog/drivers'
import { partKindSchema } from '../../src/core/catalog/part'
import { renewItem } from '../../src/core/catalog/renew'
import { FORMS, formFor } from '../../src/core/drivers/drivers'
import { catalog } from '../support/designs'
import { MODELS } from '../../standins/board/models'

const NAMES = Object.keys(DRIVERS).sort()

describe('a driver', () => {
  test('has one name everywhere: catalogue, node file, device and stand-ins', () => {
    const modules = fs
      .readdirSync('device/vn/drivers')
      .filter((f) => /^class (Driver|Signal)\b/m.test(fs.readFileSync(`device/vn/drivers/${f}`, 'utf8')))
      .map((f) => f.replace('.py', ''))
    expect(modules.sort()).toEqual(NAMES)
    expect(Object.keys(FORMS).sort()).toEqual(NAMES)
    expect(Object.keys(MODELS).sort()).toEqual(NAMES)
    for (const name of driversFor('event').concat(driversFor('output')))
      expect(formFor(name).schema.shape.driver.value).toBe(name)
  })

  test('of every channel on the shelf may have its access, and modules it asks for are there', () => {
    for (const kind of Object.values(catalog.parts))
      for (const c of kind.channels) expect(traitsOf(c.driver).access, `${kind.id} ${c.id}`).toContain(c.access)
    const chips = [...fs.readdirSync('device/vn'), ...fs.readdirSync('device/vn/chips').map((f) => `chips/${f}`)]
    for (const form of Object.values(FORMS))
      for (const needed of ('optional' in form ? form.optional : undefined) ?? [])
        expect(chips).toContain(`${needed}.py`)
  })

  test('of a part from before has the name of now', () => {
    const old = (id: string, driver: string) => {
      const kind = catalog.parts[id]
      const channels = kind?.channels.map((c) => ({ ...c, driver }))
      return partKindSchema
        .parse(renewItem(JSON.parse(JSON.stringify({ ...kind, channels }))))
        .channels.map((c) => c.driver)
        .at(0)
    }
    expect(old('keys-matrix-3x4', 'keys')).toBe('key')
    expect(old('keys-ladder-5', 'keys')).toBe('ladder')
    expect(old('expander-16', 'keys')).toBe('expander')
    expect(old('led-string', 'lamp-string')).toBe('string')
    expect(old('motor-driver', 'pwm')).toBe('bridge')
    expect(old('contact-reed', 'contact')).toBe('contact')
  })
})
