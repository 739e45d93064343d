'use client'
import { csvOfTable, sheetTable } from '@/core/publish/entitySheet'
import { exposureOf, exposureTable } from '@/core/publish/exposure'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { SheetFaults } from '@/ui/entities/SheetFaults'
import { SheetTable } from '@/ui/entities/SheetTable'
import { useSheet } from '@/ui/entities/useSheet'
import { saveFile } from '@/ui/files/saveFile'
import { useLive } from '@/ui/live/store'
import { ProofSection } from '@/ui/proof/ProofSection'
import { Fact } from '@/ui/shell/Fact'
import { Shell } from '@/ui/shell/Shell'
import { Button } from 'react-bootstrap'
import { Templates } from './Templates'

/** What the controller holds of the whole shop, as it holds it; its proof; and other forms it is announced in. */
export function Entities() {
  const { nodes, rows } = useSheet()
  const { shop, loaded, catalog } = useLive()
  const offered = rows.filter((r) => r.offered)
  return (
    <Shell crumbs={[{ name: shop.name, href: '/' }, { name: 'Entities' }]} here="Entities" back="/">
      <div className="title">
        <h1>Entities</h1>
        <Fact name="offered" value={loaded ? `${offered.length} of ${rows.length} threads` : '–'} />
        <Fact name="of" value={loaded ? `${nodes.length} nodes` : '–'} />
        <div className="fact on-screen">
          <Button
            variant="quiet"
            disabled={rows.length === 0}
            onClick={() => saveFile('entities.csv', 'text/csv', csvOfTable(sheetTable(rows)))}
          >
            Sheet as CSV
          </Button>{' '}
          <Button
            variant="quiet"
            disabled={rows.length === 0}
            onClick={() =>
              saveFile('exposed.csv', 'text/csv', csvOfTable(exposureTable(exposureOf(nodes, catalog, DEFAULT_ROOT))))
            }
          >
            What to expose
          </Button>{' '}
          <Button variant="quiet" disabled={rows.length === 0} onClick={() => window.print()}>
            Print
          </Button>
        </div>
      </div>
      <div className="place">
        <div className="work">
          {loaded && rows.length === 0 && (
            <p>No thread yet: a node with parts has something to offer. N in the Shop begins one.</p>
          )}
          {rows.length > 0 && (
            <>
              <p className="small soft no-print">
                Arrows move, Enter changes, Space marks rows and a change goes to all marked ones; T copies the topic, C
                that of the command, I the identity.
              </p>
              <SheetTable rows={rows} whole />
              <ProofSection node={null} />
              <Templates nodes={nodes} />
            </>
          )}
        </div>
        <aside className="margin" aria-label="margin">
          <h2>sheet</h2>
          <p className="small soft pt-2">
            What stands here is what a controller that reads the announcements will hold. Renaming a topic costs
            whatever was written by hand for the old one.
          </p>
          <SheetFaults rows={rows} />
        </aside>
      </div>
    </Shell>
  )
}
