import type { Channel } from '../catalog/part'
import type { DriverName } from '../catalog/drivers'
import { type DriverContext, driverContext, type SignalIn } from '../drivers/driverContext'
import { driverOf, formFor } from '../drivers/drivers'
import { omitDefault } from '../drivers/omitDefault'
import type { Signal } from '../model/design'
import { unitFactor } from '../units/convert'
import { conditionedFields } from './conditionedFields'

type Fields = Record<string, unknown>

/** One signal as the board runs it, still to be checked against the schema of its driver, or why it cannot be written. */
export function compileSignal(of: SignalIn): Fields | string {
  const { kind, channel, signal } = of
  const context = driverContext(of)
  const driver = driverOf(context)
  const own = ownOf(driver, context)
  if (own === null) return `the runtime has no driver for ${kind.name.toLowerCase()} yet`
  if (typeof own === 'string') return own
  const conditioned = conditionedFields(context, driver)
  const { chain, ...others } = conditioned
  return {
    slug: signal.slug,
    access: channel.access,
    driver,
    ...(channel.access === 'output' || signal.of !== null ? {} : omitDefault('warmUpS', kind.warmUp?.s ?? 0, 0)),
    ...others,
    ...own,
    ...(channel.access === 'reading' ? { chain: { ...channel.range, ...chain, ...calibrated(signal) } } : {}),
    ...published(channel, signal),
  }
}

/** What the driver itself says; a channel of another access than its form's has none yet. */
function ownOf(driver: DriverName, context: DriverContext): Fields | string | null {
  const form = formFor(driver)
  const access = form.schema.shape as { access?: { value: string } }
  return access.access?.value === context.channel.access ? form.compile(context) : null
}

const calibrated = ({ calibration }: Signal): Fields => ({
  ...omitDefault('gain', calibration?.gain ?? 1, 1),
  ...omitDefault('offset', calibration?.offset ?? 0, 0),
  ...(calibration?.curve ? { curve: calibration.curve } : {}),
})

function published(channel: Channel, { publish }: Signal): Fields {
  if (channel.access === 'event') return {}
  const everyS = publish.intervalS
  if (channel.access !== 'reading') return { publish: { everyS } }
  return {
    publish: {
      everyS,
      ...omitDefault('change', publish.change, 0),
      ...omitDefault('decimals', publish.decimals, 0),
      ...omitDefault('factor', unitFactor(channel.unit, publish.unit), 1),
    },
  }
}
