import { type Answer, type Question, search } from '../core/threshold/search'

export type ThresholdReply = { kind: 'share'; share: number } | { kind: 'answer'; answer: Answer | null }

/** The search for a threshold beside the page; it is stopped by ending the worker. */
self.onmessage = ({ data }: MessageEvent<Question>) => {
  let told = 0
  const answer = search(data, (share) => {
    if (share - told >= 0.02) {
      told = share
      self.postMessage({ kind: 'share', share } satisfies ThresholdReply)
    }
    return true
  })
  self.postMessage({ kind: 'answer', answer } satisfies ThresholdReply)
}
