'use client'
import { useEffect, useRef, useState } from 'react'
import type { Answer, Question } from '@/core/threshold/search'
import type { ThresholdReply } from '@/workers/threshold.worker'

/** The search beside the page: how far it is, its answer, and a stop. */
export function useSearch() {
  const worker = useRef<Worker | null>(null)
  const [share, setShare] = useState<number | null>(null)
  const [answer, setAnswer] = useState<Answer | null>(null)
  const stop = () => {
    worker.current?.terminate()
    worker.current = null
    setShare(null)
  }
  useEffect(() => () => worker.current?.terminate(), [])
  return {
    share,
    answer,
    stop,
    forget: () => setAnswer(null),
    ask: (question: Question) => {
      stop()
      setShare(0)
      setAnswer(null)
      const w = new Worker(new URL('../../../../../workers/threshold.worker.ts', import.meta.url), { type: 'module' })
      worker.current = w
      w.onmessage = ({ data }: MessageEvent<ThresholdReply>) => {
        if (data.kind === 'share') return setShare(data.share)
        setAnswer(data.answer)
        stop()
      }
      w.postMessage(question)
    },
  }
}
