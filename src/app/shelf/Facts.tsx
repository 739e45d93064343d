import { type Board, type BoardPosition, pinsOf } from '@/core/catalog/board'
import type { PartKind, Terminal } from '@/core/catalog/part'
import { engineering } from '@/core/units/format'

/** One line of a data sheet. */
function Row({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <tr>
      <th
        scope="row"
        className="soft pt-2 pe-3 pb-2 ps-0 text-nowrap"
        style={{ fontWeight: 450, verticalAlign: 'top', fontSize: '.92rem' }}
      >
        {name}
      </th>
      <td className="py-2 px-0" style={{ fontSize: '.97rem' }}>
        {children}
      </td>
    </tr>
  )
}

const amps = (a: number) => engineering(a, 'A')

export function BoardFacts({ board }: { board: Board }) {
  const pins = pinsOf(board)
  const per = board.peripherals
  const bus = (b: { count: number; routing: string }) =>
    b.routing === 'software'
      ? 'in software, any number'
      : `${b.count}, ${b.routing === 'matrix' ? 'on any pins' : 'on pins that silicon ties'}`
  return (
    <>
      <h2 style={{ fontSize: '1.3rem' }}>{board.name}</h2>
      <p className="small soft">{board.recognise}</p>
      <BoardPicture board={board} />
      <table>
        <tbody>
          <Row name="pins">
            {pins.length}, of which {pins.filter((p) => p.functions.includes('adc1')).length} measure with Wi-Fi on and{' '}
            {pins.filter((p) => !p.functions.includes('out')).length} only read
          </Row>
          <Row name="radio">{board.radios.join(', ')}</Row>
          <Row name="USB">{board.usb}</Row>
          <Row name="size">
            {board.outlineMm.width} × {board.outlineMm.length} mm, rows {board.outlineMm.rowGap} mm apart
          </Row>
          <Row name="stands">{(board.logicV + board.input.maxAboveSupplyV).toFixed(1)} V at a pin, never 5 V</Row>
          <Row name="drives">
            {amps(board.drive.perPinA)} a pin, {amps(board.drive.totalA)} in all
          </Row>
          <Row name="draws">
            {amps(board.currents.activeA)} awake, {amps(board.currents.radioPeakA)} at its peak,{' '}
            {amps(board.currents.sleepA.likely)} asleep ({amps(board.currents.sleepA.low)} to{' '}
            {amps(board.currents.sleepA.high)})
          </Row>
          <Row name="I²C">{bus(per.i2c)}</Row>
          <Row name="SPI">{bus(per.spi)}</Row>
          <Row name="serial">
            {bus(per.uart)}
            {per.uart.console ? ', one of them the console' : ''}
          </Row>
          <Row name="pulses">
            {per.pwm.channels} channels, {per.pwm.timers} {per.pwm.timers === 1 ? 'frequency' : 'frequencies'}
          </Row>
          <Row name="sleep">{board.wake.note}</Row>
          <Row name="mind">
            {pins
              .filter((p) => p.strap && p.strap.level !== 'any')
              .map(
                (p) => `${p.label} ${p.strap?.level} ${p.strap?.when === 'every start' ? 'at reset' : 'while writing'}`,
              )
              .join(', ') || 'no pin is sampled at reset'}
          </Row>
          <Row name="source">{board.source}</Row>
        </tbody>
      </table>
    </>
  )
}

/** The board at scale from its own data: outline, rows, printed labels. */
/** Pixels a millimetre: the smallest at which labels of 14 px stand clear of each other. */
const SCALE = 6.2
/** Room for a label of six letters, mm. */
const LABEL = 9.5

function BoardPicture({ board }: { board: Board }) {
  const { outlineMm: o } = board
  const wide = o.width + 2 * LABEL
  const x = (p: BoardPosition) => LABEL + (p.side === 'left' ? (o.width - o.rowGap) / 2 : (o.width + o.rowGap) / 2)
  const y = (p: BoardPosition) => o.firstPin + (p.position - 1) * o.pitch
  return (
    <svg
      viewBox={`0 -2 ${wide} ${o.length + 4}`}
      width={wide * SCALE}
      height={(o.length + 4) * SCALE}
      role="img"
      aria-label={`${board.name} at scale, ${board.ends.top} up`}
      className="d-block mt-1 me-0 mb-2 ms-0"
      style={{ maxWidth: '100%' }}
    >
      <rect
        x={LABEL}
        y="0"
        width={o.width}
        height={o.length}
        fill="var(--sheet)"
        stroke="var(--ink)"
        strokeWidth=".35"
      />
      {board.positions.map((p) => (
        <g key={`${p.side}${p.position}`}>
          {p.kind === 'pin' ? (
            <circle cx={x(p)} cy={y(p)} r=".75" fill="var(--paper)" stroke="var(--ink)" strokeWidth=".28" />
          ) : (
            <rect
              x={x(p) - 0.7}
              y={y(p) - 0.7}
              width="1.4"
              height="1.4"
              fill="var(--paper)"
              stroke="var(--soft)"
              strokeWidth=".28"
            />
          )}
          <text
            x={p.side === 'left' ? LABEL - 0.9 : LABEL + 0.9 + o.width}
            y={y(p) + 0.78}
            textAnchor={p.side === 'left' ? 'end' : 'start'}
            fontSize={14.2 / SCALE}
            fontFamily="var(--bs-font-monospace)"
            fill={p.kind === 'pin' ? 'var(--ink)' : 'var(--soft)'}
          >
            {p.label}
          </text>
        </g>
      ))}
    </svg>
  )
}

export function PartFacts({ kind }: { kind: PartKind }) {
  return (
    <>
      <h2 style={{ fontSize: '1.3rem' }}>{kind.name}</h2>
      <p className="small soft">{kind.summary}</p>
      <table>
        <tbody>
          <Row name="knows or does">
            {kind.channels.length > 4
              ? `${kind.channels.length} × ${kind.channels[0]?.name.replace(/ \d+$/, '')}`
              : kind.channels.map((c) => c.name).join(', ') || 'feeds, carries or translates'}
          </Row>
          {kind.channels.flatMap((c) =>
            c.access === 'reading'
              ? [
                  <Row key={c.id} name={c.name}>
                    {c.range.min} to {c.range.max} {c.unit}; {c.asSold.words}
                  </Row>,
                ]
              : [],
          )}
          {kind.terminals
            .filter((t) => t.role !== 'contact' && t.role !== 'ground')
            .slice(0, 12)
            .map((t) => (
              <Row key={t.id} name={t.label}>
                {terminalWords(t)}
              </Row>
            ))}
          {kind.i2c && (
            <Row name="address">
              {kind.i2c.addresses.map((a) => `0x${a.toString(16).toUpperCase()}`).join(', ')}: {kind.i2c.how}; up to{' '}
              {kind.i2c.maxHz / 1000} kHz
            </Row>
          )}
          {kind.settings
            .filter((s) => s.id !== 'address')
            .map((s) => (
              <Row key={s.id} name={s.label}>
                {'choices' in s
                  ? s.choices.map((x) => x.label).join(', ')
                  : `${s.min} to ${s.max} ${s.unit}, usually ${s.default}`}
              </Row>
            ))}
          {kind.warmUp && (
            <Row name="warms up">
              {kind.warmUp.s} s: {kind.warmUp.why}
            </Row>
          )}
          {kind.contacts && (
            <Row name="contacts">
              {kind.contacts.dcA} A at {kind.contacts.dcV} V DC, {kind.contacts.acA} A at {kind.contacts.acV} V AC,
              resistive
            </Row>
          )}
          {kind.cell && (
            <Row name="cell">
              {kind.cell.capacityAh * 1000} mAh, {kind.cell.chemistry},{' '}
              {kind.cell.rechargeable ? 'charged again' : 'never charged'}
            </Row>
          )}
          <Row name="costs">
            {kind.cost.each > 0
              ? `about ${kind.cost.each.toFixed(2)}${kind.cost.pack > 1 ? ` in a pack of ${kind.cost.pack}` : ''}`
              : 'there already'}
            {kind.readyMade !== null ? `; ready made about ${kind.readyMade}` : ''}
          </Row>
          {kind.cautions.map((c) => (
            <Row key={c.id} name="caution">
              {c.title}
              {c.when ? ` (${labelOf(kind, c.when)})` : ''}
            </Row>
          ))}
          <Row name="source">{kind.source}</Row>
        </tbody>
      </table>
    </>
  )
}

function terminalWords(t: Terminal): string {
  switch (t.role) {
    case 'supply':
      return `${t.minV} to ${t.maxV} V${t.ac ? ', alternating too' : ''}, ${t.per ? `${amps(t.per.peakA)} for each of its ${t.per.setting}` : `${amps(t.peakA)} at most`}${t.startA ? `, ${amps(t.startA)} at the start` : ''}`
    case 'source':
      return `gives ${t.minV} to ${t.maxV} V ${t.kind}, ${amps(t.limitA)}`
    case 'line': {
      const pulls = t.output?.kind === 'open-drain' ? ', only pulls low' : ''
      const highWords = t.output?.kind === 'push-pull' ? ', high at its supply' : pulls
      const level = t.output?.kind === 'fixed' ? `, ${t.output.highMaxV} V high` : highWords
      const needs = { level: '', pwm: ' by pulse width', analog: ' as a voltage', edges: ', every change counts' }[
        t.needs
      ]
      return `the board ${t.board === 'both' ? 'reads and drives' : t.board} it${needs}${level}${t.pull ? `, needs a pull-${t.pull}` : ''}${t.hazard ? '; must rest until the program runs' : ''}`
    }
    default:
      return ''
  }
}

/** The words of the choice a caution hangs on. */
function labelOf(kind: PartKind, { setting, is }: { setting: string; is: string }): string {
  const s = kind.settings.find((x) => x.id === setting)
  return s && 'choices' in s ? (s.choices.find((c) => c.id === is)?.label ?? is) : is
}
