'use client'
import { useSearchParams } from 'next/navigation'
import QRCode from 'qrcode'
import { useEffect, useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { type Label, labelsOf, type Tape, TAPES } from '@/core/labels/labels'
import { useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { Fact } from '@/ui/shell/Fact'

type Paper = Tape | 'A4'

/** Labels to print: on tape, one after the other, or many on a sheet. `?node=` leaves one node’s alone. */
export function Labels() {
  const { loaded, nodes, order, shop } = useLive()
  const only = useSearchParams().get('node')
  const [paper, setPaper] = useState<Paper>('12')
  const designs = useMemo(
    () =>
      order.flatMap((id) => (nodes[id] && (only === null || nodes[id].design.slug === only) ? [nodes[id].design] : [])),
    [order, nodes, only],
  )
  const labels = designs.flatMap((d) => labelsOf(d).map((l) => ({ ...l, key: `${d.id}:${l.key}` })))
  return (
    <Shell crumbs={[{ name: shop.name, href: '/' }, { name: 'Labels' }]} here={null} back="/">
      <div className="title no-print">
        <h1>Labels</h1>
        <Fact name="nodes" value={String(designs.length)} />
        <Fact name="labels" value={String(labels.length)} />
        <div className="fact">
          <label htmlFor="l-paper">paper</label>
          <Form.Select
            id="l-paper"
            style={{ width: 150 }}
            value={paper}
            onChange={(e) => setPaper(e.target.value as Paper)}
          >
            <option value="12">tape of 12 mm</option>
            <option value="9">tape of 9 mm</option>
            <option value="A4">a sheet, A4</option>
          </Form.Select>
        </div>
        <Button variant="quiet" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <div className="place wide">
        <div className="work">
          {loaded && labels.length === 0 && <p>There is no such node.</p>}
          <p className="small soft no-print">
            One for each node, with the way to its page, and one for each end of each cable that leaves its box. The
            code leads to {typeof window === 'undefined' ? 'this address' : window.location.origin}.
          </p>
          <div className={`labels on-${paper}`}>
            {labels.map((l) => (
              <LabelOf key={l.key} label={l} paper={paper} />
            ))}
          </div>
        </div>
      </div>
    </Shell>
  )
}

function LabelOf({ label, paper }: { label: Label; paper: Paper }) {
  const [code, setCode] = useState<string | null>(null)
  useEffect(() => {
    if (label.path === null) return
    let live = true
    void QRCode.toDataURL(`${window.location.origin}${label.path}`, {
      margin: 1,
      errorCorrectionLevel: 'M',
      width: 240,
    }).then((url) => {
      if (live) setCode(url)
    })
    return () => {
      live = false
    }
  }, [label.path])
  const [first = '', ...rest] = label.lines
  const long = first.length > (paper === 'A4' ? 24 : TAPES[paper].letters)
  return (
    <div className={`label is-${label.kind}`} data-label={label.kind}>
      {/* eslint-disable-next-line @next/next/no-img-element */}
      {code !== null && <img src={code} alt={`code for ${label.path ?? ''}`} />}
      <div>
        <b className={long ? 'is-long' : undefined}>{first}</b>
        {rest.map((line) => (
          <span key={line}>{line}</span>
        ))}
      </div>
    </div>
  )
}
