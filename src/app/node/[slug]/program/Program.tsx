'use client'
import { useState } from 'react'
import { Nav } from 'react-bootstrap'
import { Margin } from '@/ui/findings/Margin'
import type { NodeView } from '@/ui/live/useNode'
import { Fact } from '@/ui/shell/Fact'
import { Bench } from '../Bench'
import { RunningFact } from '../RunningFact'
import { Behaviour } from './Behaviour'
import { Connection } from './Connection'
import { DifferenceView } from './DifferenceView'
import { Install } from './Install'
import { WriteBoard } from './WriteBoard'
import { RevisionList } from './RevisionList'
import { useDifference } from './useDifference'

function changesWords(meaning: readonly unknown[] | null): string {
  if (meaning === null) return 'everything'
  if (meaning.length === 0) return 'nothing'
  return `${meaning.length} ${meaning.length === 1 ? 'thing' : 'things'}`
}

export function Program() {
  return <Bench name="Program">{(view) => <ProgramOf view={view} />}</Bench>
}

const VIEWS = {
  difference: 'What sending changes',
  behaviour: 'What it does by itself',
  connection: 'How it connects',
  revisions: 'Revisions',
  install: 'Install',
  write: 'Write the board',
} as const
type View = keyof typeof VIEWS

function ProgramOf({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    derived,
  } = view
  const [shown, setShown] = useState<View>('difference')
  const difference = useDifference(view)
  const size = difference.kind === 'ready' ? new TextEncoder().encode(difference.designText).length : null
  return (
    <>
      <div className="title">
        <h1>Program</h1>
        <Fact name="sending changes" value={difference.kind === 'ready' ? changesWords(difference.meaning) : '–'} />
        <Fact name="node file" value={size === null ? 'cannot be written yet' : `${(size / 1024).toFixed(1)} KiB`} />
        <RunningFact view={view} />
      </div>
      <div className="place">
        <div className="work">
          <Nav
            variant="underline"
            activeKey={shown}
            onSelect={(key) => setShown((key ?? 'difference') as View)}
            as="nav"
            aria-label="program"
            className="views"
          >
            {Object.entries(VIEWS).map(([key, words]) => (
              <Nav.Item key={key}>
                <Nav.Link as="button" eventKey={key} aria-current={shown === key}>
                  {words}
                </Nav.Link>
              </Nav.Item>
            ))}
          </Nav>
          {shown === 'difference' && <DifferenceView view={view} difference={difference} />}
          {shown === 'behaviour' && <Behaviour view={view} />}
          {shown === 'connection' && <Connection view={view} />}
          {shown === 'revisions' && <RevisionList view={view} />}
          {shown === 'install' && <Install view={view} />}
          {shown === 'write' && <WriteBoard view={view} />}
        </div>
        <aside className="margin" aria-label="margin">
          <Margin
            nodeId={id}
            design={design}
            findings={derived.findings.filter((f) => f.bench === 'program')}
            all={derived.findings}
          />
        </aside>
      </div>
    </>
  )
}
