'use client'
import { useState, useSyncExternalStore } from 'react'
import { Button, Form, ProgressBar } from 'react-bootstrap'
import { z } from 'zod'
import type { CablePort } from '@/cable/port'
import type { Board } from '@/core/catalog/board'
import { className, megabytes, refusals } from '@/core/image/judgeImage'
import { type Image, readImage } from '@/core/image/readImage'
import { choosePort, standInPort, whyNoSerial } from '@/ui/cable/ports'
import { StartupText } from '@/ui/cable/StartupText'
import { type CableState, useCable } from '@/ui/cable/useCable'
import { saveFile } from '@/ui/files/saveFile'
import { GoOn } from '@/ui/findings/GoOn'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useCableFiles } from './useCableFiles'

interface Chosen {
  port: CablePort
  words: string
  standIn: boolean
}
interface ImageFile {
  name: string
  bytes: Uint8Array
  image: Image | null
}

const never = () => () => undefined

/** The board at the cable, written from here: interpreter, files, and what it says when it starts. */
export function WriteBoard({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    board,
  } = view
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [file, setFile] = useState<ImageFile | null>(null)
  const [erase, setErase] = useState(true)
  const [files, setFiles] = useState(true)
  const cable = useCable(board, id)
  const made = useCableFiles(id)
  const busy = cable.doing !== 'nothing'
  const drive = board.download?.by === 'drive'
  const writes = file !== null && !drive
  const refused = file !== null && refusals(file.image, board, null).length > 0
  const go = () => {
    if (!chosen) return
    void cable.install(chosen.port, {
      image: writes ? file.bytes : null,
      erase,
      bundle: files ? () => made.make(chosen.standIn) : null,
      patienceS: design.sleep ? design.sleep.everyS + 30 : 15,
    })
  }
  const listen = () => {
    if (chosen) void cable.hear(chosen.port, board.interpreter.chip === '8266-class' ? 74_880 : 115_200, true)
  }
  return (
    <section aria-label="write" className="write-board" data-doing={cable.doing}>
      <WhereNot drive={drive} />
      <ol className="write-steps">
        <PortStep chosen={chosen} busy={busy} onChoose={setChosen} />
        <ImageStep board={board} file={file} busy={busy} standIn={chosen?.standIn === true} onFile={setFile}>
          {writes && (
            <div className="choices">
              <Form.Check
                type="radio"
                id="w-erase"
                name="w-erase"
                label="erase everything on the board first"
                checked={erase}
                disabled={busy}
                onChange={() => setErase(true)}
              />
              <Form.Check
                type="radio"
                id="w-keep"
                name="w-erase"
                label="keep what else is on it: old settings and files stay"
                checked={!erase}
                disabled={busy}
                onChange={() => setErase(false)}
              />
            </div>
          )}
        </ImageStep>
        <li>
          <b className="d-block">This node’s files</b>
          <Form.Check
            id="w-files"
            label="put them on it, with passwords: an earlier login of this node stops working"
            checked={files}
            disabled={busy}
            onChange={(e) => setFiles(e.target.checked)}
          />
        </li>
      </ol>
      <div className="fields">
        <Button disabled={busy || !chosen || refused || !(writes || files)} onClick={go}>
          {buttonWords(writes, files)}
        </Button>
        <Button variant="quiet" disabled={busy || !chosen} onClick={listen}>
          Start it anew and listen
        </Button>
        {busy && (
          <Button variant="quiet" onClick={cable.stop}>
            Stop
          </Button>
        )}
      </div>
      <HowFar cable={cable} />
      {made.held && <GoOn held={made.held} doing="Install" onGo={made.goOn} onHide={made.hide} />}
      {cable.reading && <StartupText reading={cable.reading} />}
    </section>
  )
}

/** Why this page has no ports, and what does the same. */
function WhereNot({ drive }: { drive: boolean }) {
  // Only the browser knows.
  const why = useSyncExternalStore(never, whyNoSerial, () => null)
  if (why === null) return null
  return (
    <div className="small mb-2" role="note">
      <p className="mb-1">{why}</p>
      <p className="mb-1">The same by command, at the machine the board is plugged into:</p>
      {!drive && (
        <p className="mb-1">
          <code>bin/vivid write IMAGE PORT</code>
        </p>
      )}
      <p className="mb-0">
        <code>bin/vivid install BUNDLE.zip PORT</code>
      </p>
    </div>
  )
}

interface PortStepProps {
  chosen: Chosen | null
  busy: boolean
  onChoose: (chosen: Chosen) => void
}

function PortStep({ chosen, busy, onChoose }: PortStepProps) {
  const demo = useLive((s) => s.demo)
  const none = useSyncExternalStore(
    never,
    () => whyNoSerial() !== null,
    () => true,
  )
  const real = async () => {
    try {
      const port = await choosePort()
      if (port) onChoose({ port, words: 'a port of this computer', standIn: false })
    } catch (e) {
      say(e instanceof Error ? e.message : String(e), 'refused')
    }
  }
  const simulated = async () => {
    const answer = await ask('/api/standin/cable', z.object({ chip: z.string(), trouble: z.string() }))
    if (answer.kind !== 'ok') return say(answer.error, 'refused')
    onChoose({ port: standInPort(), words: `the simulated board (${answer.value.chip})`, standIn: true })
  }
  return (
    <li>
      <b className="d-block">The port</b>
      <div className="fields">
        {!none && (
          <Button variant="quiet" disabled={busy} onClick={() => void real()}>
            Choose a port
          </Button>
        )}
        {demo && (
          <Button variant="quiet" disabled={busy} onClick={() => void simulated()}>
            The simulated board
          </Button>
        )}
        <span className="small soft align-self-center">{chosen ? `Chosen: ${chosen.words}.` : 'None chosen yet.'}</span>
      </div>
    </li>
  )
}

interface ImageStepProps {
  board: Board
  file: ImageFile | null
  busy: boolean
  standIn: boolean
  onFile: (file: ImageFile | null) => void
  children: React.ReactNode
}

function ImageStep({ board, file, busy, standIn, onFile, children }: ImageStepProps) {
  const against = file ? refusals(file.image, board, null) : []
  const take = async (name: string, of: Blob | Response) => {
    const bytes = new Uint8Array(await of.arrayBuffer())
    onFile({ name, bytes, image: readImage(bytes) })
  }
  const standInImage = async () => {
    const response = await fetch('/api/standin/cable/image').catch(() => null)
    if (response?.ok) await take('the stand-in’s image', response)
    else say('The simulated board has no image now.', 'refused')
  }
  return (
    <li>
      <Form.Label htmlFor="w-image" className="d-block">
        <b>The interpreter’s image</b>: {board.interpreter.image}, version {board.interpreter.least} or later. None
        where it is on the board already.
      </Form.Label>
      <div className="fields">
        <Form.Control
          id="w-image"
          type="file"
          accept=".bin,.uf2"
          disabled={busy}
          style={{ maxWidth: 420 }}
          onChange={(e) => {
            const [given] = (e.target as HTMLInputElement).files ?? []
            if (given) void take(given.name, given)
          }}
        />
        {standIn && (
          <Button variant="quiet" disabled={busy} onClick={() => void standInImage()}>
            Take the stand-in’s
          </Button>
        )}
      </div>
      {file && (
        <div className="small mt-2" data-image={against.length === 0 ? 'fits' : 'refused'}>
          {file.name}: {imageWords(file.image)}.{' '}
          <Button variant="bare" disabled={busy} onClick={() => onFile(null)}>
            leave it out
          </Button>
          {against.map((reason) => (
            <div key={reason} role="alert" className="mt-1">
              <b>{reason}</b>
            </div>
          ))}
        </div>
      )}
      {against.length === 0 && children}
      {file && board.download?.by === 'drive' && against.length === 0 && (
        <p className="small mt-2 mb-0">
          This class takes its image over a drive. {board.download.hold}{' '}
          <Button
            variant="quiet"
            onClick={() => saveFile('interpreter.uf2', 'application/octet-stream', new Blob([file.bytes as BlobPart]))}
          >
            Save it for the drive
          </Button>
        </p>
      )}
    </li>
  )
}

/** What has been done, what is being done, and what went wrong. */
function HowFar({ cable }: { cable: CableState }) {
  const { progress, trouble } = cable
  return (
    <>
      <div aria-live="polite" className="write-said">
        {cable.done.map((d) => (
          <div key={d}>{d}</div>
        ))}
        {cable.doing !== 'nothing' && <div>{cable.words}</div>}
        {progress && (
          <ProgressBar
            now={progress.done}
            max={progress.of}
            label={`${Math.floor((100 * progress.done) / Math.max(1, progress.of))} %`}
          />
        )}
      </div>
      {trouble && (
        <div role="alert" className="write-trouble">
          <p className="startup-head is-wrong">{trouble.what}</p>
          {trouble.next.length > 0 && (
            <ol className="startup-next">
              {trouble.next.map((n) => (
                <li key={n}>{n}</li>
              ))}
            </ol>
          )}
        </div>
      )}
    </>
  )
}

function buttonWords(writes: boolean, files: boolean): string {
  if (!writes) return 'Install'
  return files ? 'Write and install' : 'Write'
}

function imageWords(image: Image | null): string {
  if (!image) return 'no image'
  return [
    `for ${className(image.chip)}`,
    megabytes(image.bytes),
    ...(image.version === null ? [] : [`version ${image.version}`]),
    ...(image.at === null ? [] : [`goes to 0x${image.at.toString(16)}`]),
    `checksum ${image.sha256.slice(0, 12)}…`,
  ].join(', ')
}
