'use client'
import { useState, useSyncExternalStore } from 'react'
import { Button, Form, ProgressBar } from 'react-bootstrap'
import { z } from 'zod'
import type { CablePort } from '@/cable/port'
import { className, megabytes, refusals } from '@/core/image/judgeImage'
import { type Image, readImage } from '@/core/image/readImage'
import { choosePort, standInPort, whyNoSerial } from '@/ui/cable/ports'
import { StartupText } from '@/ui/cable/StartupText'
import { useCable } from '@/ui/cable/useCable'
import { saveFile } from '@/ui/files/saveFile'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

interface Chosen {
  port: CablePort
  words: string
  standIn: boolean
}
/** What the server answers with when it makes a bundle, or why it does not. */
export type MakeBundle = (standIn: boolean) => Promise<Uint8Array>

const never = () => () => undefined

/** The board at the cable, written from here: interpreter, files, and what it says when it starts. */
export function WriteBoard({ view, makeBundle }: { view: NodeView; makeBundle: MakeBundle }) {
  const {
    node: { design },
    board,
  } = view
  const demo = useLive((s) => s.demo)
  // Only the browser knows.
  const why = useSyncExternalStore(never, whyNoSerial, () => null)
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [file, setFile] = useState<{ name: string; bytes: Uint8Array; image: Image | null } | null>(null)
  const [erase, setErase] = useState(true)
  const [files, setFiles] = useState(true)
  const cable = useCable(board)
  const busy = cable.doing !== 'nothing'
  const drive = board.download?.by === 'drive'
  const against = file ? refusals(file.image, board, null) : []
  const nothing = (!file || drive) && !files

  const take = async (given: File) => {
    const bytes = new Uint8Array(await given.arrayBuffer())
    setFile({ name: given.name, bytes, image: readImage(bytes) })
  }
  const real = async () => {
    try {
      const port = await choosePort()
      if (port) setChosen({ port, words: 'a port of this computer', standIn: false })
    } catch (e) {
      say(e instanceof Error ? e.message : String(e), 'refused')
    }
  }
  const simulated = async () => {
    const answer = await ask('/api/standin/cable', z.object({ chip: z.string(), trouble: z.string() }))
    if (answer.kind !== 'ok') return say(answer.error, 'refused')
    setChosen({ port: standInPort(), words: `the simulated board (${answer.value.chip})`, standIn: true })
  }
  const standInImage = async () => {
    const response = await fetch('/api/standin/cable/image')
    if (!response.ok) return say('The simulated board has no image now.', 'refused')
    const bytes = new Uint8Array(await response.arrayBuffer())
    setFile({ name: 'the stand-in’s image', bytes, image: readImage(bytes) })
  }
  const go = () => {
    if (!chosen) return
    void cable.install(chosen.port, {
      image: drive || !file ? null : file.bytes,
      erase,
      bundle: files ? () => makeBundle(chosen.standIn) : null,
      patienceS: design.sleep ? design.sleep.everyS + 30 : 15,
    })
  }

  return (
    <section aria-label="write" className="write-board" data-doing={cable.doing}>
      <h2>Write it from here</h2>
      {why !== null && (
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
      )}
      <ol className="write-steps">
        <li>
          <b>The port.</b>{' '}
          {why === null && (
            <Button variant="quiet" size="sm" disabled={busy} onClick={() => void real()}>
              Choose a port
            </Button>
          )}{' '}
          {demo && (
            <Button variant="quiet" size="sm" disabled={busy} onClick={() => void simulated()}>
              The simulated board
            </Button>
          )}
          <div className="small soft">{chosen ? `Chosen: ${chosen.words}.` : 'None chosen yet.'}</div>
        </li>
        <li>
          <Form.Label htmlFor="w-image">
            <b>The interpreter’s image</b>, {board.interpreter.image}, version {board.interpreter.least} or later; none
            where it is on the board already
          </Form.Label>
          <div className="fields">
            <Form.Control
              id="w-image"
              type="file"
              accept=".bin,.uf2"
              disabled={busy}
              onChange={(e) => {
                const [given] = (e.target as HTMLInputElement).files ?? []
                if (given) void take(given)
              }}
            />
            {demo && chosen?.standIn && (
              <Button variant="quiet" size="sm" disabled={busy} onClick={() => void standInImage()}>
                Take the stand-in’s
              </Button>
            )}
          </div>
          {file && (
            <div className="small" data-image={against.length === 0 ? 'fits' : 'refused'}>
              {file.name}: {imageWords(file.image)}.{' '}
              <Button variant="bare" size="sm" disabled={busy} onClick={() => setFile(null)}>
                leave it out
              </Button>
              {against.map((reason) => (
                <div key={reason} role="alert">
                  {reason}
                </div>
              ))}
            </div>
          )}
          {file && !drive && (
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
          {file && drive && against.length === 0 && (
            <p className="small">
              This class takes its image over a drive: {board.download?.hold}{' '}
              <Button
                variant="quiet"
                size="sm"
                onClick={() =>
                  saveFile('interpreter.uf2', 'application/octet-stream', new Blob([file.bytes as BlobPart]))
                }
              >
                Save it for the drive
              </Button>
            </p>
          )}
        </li>
        <li>
          <Form.Check
            id="w-files"
            label="put this node’s files on it, with passwords: an earlier login of it stops working"
            checked={files}
            disabled={busy}
            onChange={(e) => setFiles(e.target.checked)}
          />
        </li>
      </ol>
      <div className="fields">
        <Button disabled={busy || !chosen || nothing || against.length > 0} onClick={go}>
          {buttonWords(file !== null && !drive, files)}
        </Button>
        <Button
          variant="quiet"
          disabled={busy || !chosen}
          onClick={() =>
            chosen && void cable.hear(chosen.port, board.interpreter.chip === '8266-class' ? 74_880 : 115_200, true)
          }
        >
          Start it anew and listen
        </Button>
        {busy && (
          <Button variant="quiet" onClick={cable.stop}>
            Stop
          </Button>
        )}
      </div>
      <div aria-live="polite" className="write-said">
        {cable.done.map((d) => (
          <div key={d}>{d}</div>
        ))}
        {busy && <div>{cable.words}</div>}
        {cable.progress && (
          <ProgressBar
            now={cable.progress.done}
            max={cable.progress.of}
            label={`${Math.floor((100 * cable.progress.done) / Math.max(1, cable.progress.of))} %`}
          />
        )}
      </div>
      {cable.trouble && (
        <div role="alert" className="write-trouble">
          <p className="startup-head is-wrong">{cable.trouble.what}</p>
          {cable.trouble.next.length > 0 && (
            <ol className="startup-next">
              {cable.trouble.next.map((n) => (
                <li key={n}>{n}</li>
              ))}
            </ol>
          )}
        </div>
      )}
      {cable.reading && <StartupText reading={cable.reading} />}
    </section>
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
