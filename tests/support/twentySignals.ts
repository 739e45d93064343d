import type { Design } from '../../src/core/model/design'
import { after, blank } from './designs'

/** A node of twenty signals of every kind a first builder has. */
export function twentySignals(): Design {
  const parts: [string, string, string[]][] = [
    ['pad', 'keys-matrix-3x4', ['k1', 'k2', 'k3', 'k4', 'k5', 'k6', 'k7', 'k8']],
    ['air', 'climate-i2c-two', ['temperature', 'humidity', 'pressure']],
    ['sun', 'light-i2c', ['light']],
    ['probe', 'thermometer-one-wire', ['temperature']],
    ['ranger', 'ranger-echo', ['distance']],
    ['pump', 'relay-module-low', ['switch']],
    ['flap', 'contact-reed', ['open']],
    ['lamp', 'led-pwm', ['light']],
    ['level', 'level-analog', ['level']],
    ['flow', 'flow-meter', ['flow']],
    ['show', 'display-i2c', ['text']],
  ]
  const design = parts.reduce(
    (d, [partId, part, channels]) =>
      after(d, {
        kind: 'add-part',
        partId,
        part,
        label: partId,
        signals: channels.map((channel) => ({ id: `s${partId}${channel}`, channel, slug: `${partId}-${channel}` })),
      }),
    blank('board-s3-44'),
  )
  return Object.entries(design.signals).reduce(
    (d, [id, s]) =>
      after(d, {
        kind: 'condition',
        signalId: id,
        set: s.publish.change > 0 ? { median: 5, averageS: 12.5 } : { patterns: ['single', 'double', 'long'] },
      }),
    design,
  )
}
