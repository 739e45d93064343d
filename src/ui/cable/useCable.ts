import { useCallback, useRef, useState } from 'react'
import { z } from 'zod'
import { boardFiles } from '@/cable/boardFiles'
import { BAUD, listen } from '@/cable/listen'
import { type CablePort, CableTrouble } from '@/cable/port'
import { putFiles } from '@/cable/putFiles'
import { stepWords } from '@/cable/stepWords'
import { TextLine } from '@/cable/textLine'
import { writeImage } from '@/cable/writeImage'
import { platformOf } from '@/core/bundle/chipClass'
import type { Board } from '@/core/catalog/board'
import { readImage } from '@/core/image/readImage'
import { readStartup, type StartReading } from '@/core/startup/readStartup'
import { heardOnCable } from './lastHeard'
import { ask } from '@/ui/live/api'

export interface CableState {
  doing: 'nothing' | 'writing' | 'files' | 'listening'
  /** What is being done, in words, and how far. */
  words: string
  progress: { done: number; of: number } | null
  trouble: { what: string; next: readonly string[] } | null
  done: string[]
  reading: StartReading | null
  /** Hardware address, once it has been read. */
  hardware: string | null
}

const NOTHING: CableState = {
  doing: 'nothing',
  words: '',
  progress: null,
  trouble: null,
  done: [],
  reading: null,
  hardware: null,
}

/** What is done at the cable from this page: one thing at a time, each with its progress and a stop. */
export function useCable(board: Board, node: string) {
  const [state, setState] = useState<CableState>(NOTHING)
  const stop = useRef(false)
  const patch = useCallback((part: Partial<CableState>) => setState((s) => ({ ...s, ...part })), [])
  const finished = useCallback(
    (what: string) => setState((s) => ({ ...s, done: [...s.done, what], progress: null })),
    [],
  )

  const run = useCallback(
    async (doing: CableState['doing'], work: () => Promise<void>) => {
      stop.current = false
      setState({ ...NOTHING, doing })
      try {
        await work()
        patch({ doing: 'nothing', words: '', progress: null })
        return true
      } catch (e) {
        const what = e instanceof Error ? e.message : String(e)
        patch({
          doing: 'nothing',
          words: '',
          progress: null,
          trouble: { what, next: e instanceof CableTrouble ? e.next : [] },
        })
        return false
      }
    },
    [patch],
  )

  /** Image first where one is given, then the files where there are some, then what it says. */
  const install = useCallback(
    (port: CablePort, { image, erase, bundle, patienceS }: Installing) =>
      run('writing', async () => {
        let hardware: string | null = null
        const made = image && readImage(image)
        const seen = (address: string | null) =>
          rememberBoard({
            hardware,
            chip: board.interpreter.chip,
            node: bundle ? node : null,
            image: made?.sha256 ?? null,
            imageVersion: made?.version ?? null,
            address,
          })
        if (image) {
          const written = await writeImage({
            port,
            image,
            board,
            erase,
            stopped: () => stop.current,
            told: (step) => {
              patch({ words: stepWords(step), progress: step.step === 'writing' ? step : null })
              if (step.step === 'found') patch({ hardware: step.hardware })
            },
          })
          hardware = written.hardware
          await seen(null)
          finished(`Interpreter written and compared, hardware address ${written.hardware}.`)
        }
        if (bundle) {
          patch({ doing: 'files', words: 'Making the bundle …' })
          const files = boardFiles(await bundle())
          patch({ words: 'Reaching its prompt …' })
          let line = await TextLine.open(port, BAUD)
          let text = ''
          try {
            const found = await putFiles(line, {
              files,
              platform: platformOf(board.interpreter.chip),
              patienceMs: patienceS * 1000,
              reopen: async () => {
                await line.close()
                line = await TextLine.open(port, BAUD)
                return line
              },
              stopped: () => stop.current,
              told: (what, done, of) => patch({ words: `Files: ${what}`, progress: { done, of } }),
            })
            hardware = found.hardware ?? hardware
            patch({ hardware })
            await seen(null)
            finished(`${files.size} files written and read back.`)
          } finally {
            await line.close()
          }
          text = await listen(port, {
            reset: true,
            board,
            stopped: () => stop.current,
            heard: (t) => patch(says(t, board)),
          })
          patch(says(text, board))
          heardOnCable(node, readStartup(text, { chip: board.interpreter.chip, usb: board.usb }))
          await seen(readStartup(text, { chip: board.interpreter.chip }).facts.address ?? null)
        }
      }),
    [board, finished, node, patch, run],
  )

  const hear = useCallback(
    (port: CablePort, baud: number, reset: boolean) =>
      run('listening', async () => {
        patch({ words: `Listening at ${baud} baud …` })
        const text = await listen(port, {
          baud,
          reset,
          board,
          stopped: () => stop.current,
          heard: (t) => patch(says(t, board, baud)),
        })
        patch(says(text, board, baud))
        heardOnCable(node, readStartup(text, { chip: board.interpreter.chip, usb: board.usb, baud }))
      }),
    [board, node, patch, run],
  )

  return {
    ...state,
    install,
    hear,
    read: (text: string) => setState({ ...NOTHING, ...says(text, board) }),
    stop: () => {
      stop.current = true
      patch({ words: 'Stopping …' })
    },
  }
}

/** What was read of a board goes into the list of boards. */
async function rememberBoard({
  hardware,
  ...seen
}: {
  hardware: string | null
  chip: string
  node: string | null
  image: string | null
  imageVersion: string | null
  address: string | null
}): Promise<void> {
  if (hardware !== null) await ask('/api/boards', z.object({}), { hardware, ...seen })
}

export interface Installing {
  image: Uint8Array | null
  erase: boolean
  /** The bundle with passwords, as the server makes it; null leaves files as they are. */
  bundle: (() => Promise<Uint8Array>) | null
  /** How long it is knocked at, s. */
  patienceS: number
}

function says(text: string, board: Board, baud = BAUD): Partial<CableState> {
  return { reading: readStartup(text, { chip: board.interpreter.chip, usb: board.usb, baud }) }
}
