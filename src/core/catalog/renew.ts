import { z } from 'zod'
import { choiceIdFrom } from './choiceId'

const any = z.looseObject({})
const choiceSetting = z.looseObject({ choices: z.array(z.string()).min(1), default: z.string() })
const caution = z.looseObject({ title: z.string(), text: z.string() })
const quirk = z.looseObject({ word: z.string() })

/** Words quirks went by before they had names of their own. */
const QUIRK_WORDS: Record<string, string> = {
  USB: 'usb',
  console: 'console',
  'brief false lows': 'false-lows',
  'taken on larger modules': 'larger-modules',
  'may glitch at start': 'glitch',
  'analog off with Wi-Fi': 'analog-with-radio',
}

/**
 * A part or board from a file of an earlier release as files are now; anything else as it is. What rules go by then
 * stood in the words: choices get ids, cautions say whether they are about mains, quirks get names. Nothing is checked
 * here.
 */
export function renewItem(json: unknown): unknown {
  const item = any.safeParse(json)
  if (!item.success) return json
  if (item.data.format === 'vivid-node/part') return renewPart(item.data)
  if (item.data.format === 'vivid-node/board') return renewBoard(item.data)
  return json
}

/** The items a design of an earlier release carries, as they are now. */
export function renewItems(json: unknown): unknown {
  const design = z
    .looseObject({ items: z.looseObject({ parts: z.array(z.unknown()), boards: z.array(z.unknown()) }) })
    .safeParse(json)
  if (!design.success) return json
  const { items } = design.data
  return { ...design.data, items: { ...items, parts: items.parts.map(renewItem), boards: items.boards.map(renewItem) } }
}

type Loose = Record<string, unknown>

function renewPart(part: Loose): Loose {
  const settings = z.array(z.unknown()).safeParse(part.settings)
  const cautions = z.array(z.unknown()).safeParse(part.cautions)
  return {
    ...part,
    ...(settings.success ? { settings: settings.data.map(renewSetting) } : {}),
    ...(cautions.success ? { cautions: cautions.data.map(renewCaution) } : {}),
    ...renewedChannels(part),
  }
}

const line = z.looseObject({ role: z.literal('line'), board: z.string() })
const driven = z.looseObject({ access: z.string(), driver: z.string(), lines: z.array(z.unknown()) })

/** Drivers that went by another name in parts than in node files. */
function renewedChannels(part: Loose): Loose {
  const channels = z.array(z.unknown()).safeParse(part.channels)
  if (!channels.success) return {}
  const terminals = z.array(z.unknown()).safeParse(part.terminals)
  const sides = new Set((terminals.data ?? []).flatMap((t) => line.safeParse(t).data?.board ?? []))
  const keyed = sides.has('drives') && sides.has('reads') ? 'key' : 'ladder'
  return {
    channels: channels.data.map((json) => {
      const old = driven.safeParse(json)
      if (!old.success) return json
      const { access, driver, lines } = old.data
      if (driver === 'keys') return { ...old.data, driver: part.i2c === undefined ? keyed : 'expander' }
      if (driver === 'lamp-string') return { ...old.data, driver: 'string' }
      if (driver === 'serial' && access === 'state') return { ...old.data, driver: 'presence' }
      if (driver === 'pwm' && lines.length === 2) return { ...old.data, driver: 'bridge' }
      return json
    }),
  }
}

function renewSetting(json: unknown): unknown {
  const old = choiceSetting.safeParse(json)
  if (!old.success) return json
  const { choices, means, ...rest } = old.data
  const meant = any.safeParse(means)
  return {
    ...rest,
    default: choiceIdFrom(old.data.default),
    choices: choices.map((label) => ({
      id: choiceIdFrom(label),
      label,
      ...(meant.success && label in meant.data ? { means: meant.data[label] } : {}),
    })),
  }
}

function renewCaution(json: unknown): unknown {
  const old = caution.safeParse(json)
  if (!old.success || 'mains' in old.data) return json
  const when = z.looseObject({ is: z.string() }).safeParse(old.data.when)
  return {
    ...old.data,
    ...(when.success ? { when: { ...when.data, is: choiceIdFrom(when.data.is) } } : {}),
    mains: /mains/i.test(old.data.title + old.data.text),
  }
}

function renewBoard(board: Loose): Loose {
  const positions = z.array(z.unknown()).safeParse(board.positions)
  if (!positions.success) return board
  return {
    ...board,
    positions: positions.data.map((position) => {
      const pin = z.looseObject({ quirks: z.array(z.unknown()) }).safeParse(position)
      return pin.success ? { ...pin.data, quirks: pin.data.quirks.map(renewQuirk) } : position
    }),
  }
}

function renewQuirk(json: unknown): unknown {
  const old = quirk.safeParse(json)
  const id = old.success ? QUIRK_WORDS[old.data.word] : undefined
  return old.success && id !== undefined && !('id' in old.data) ? { id, ...old.data } : json
}
