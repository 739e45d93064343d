import { BROKER_WORDS, type StartFacts } from './patterns'

/** What could be taken out of a start-up text, as names and words. */
export function factWords(f: Partial<StartFacts>): [string, string][] {
  const all: [string, string | undefined][] = [
    ['interpreter', f.interpreter],
    ['node', f.node === undefined ? undefined : `${f.node}, revision ${f.revision ?? '?'}`],
    ['hardware address', f.hardware?.replace(/..(?=.)/g, '$&:')],
    ['network', f.wifi],
    ['strength', f.strengthDbm === undefined ? undefined : `${f.strengthDbm} dBm`.replace('-', '−')],
    ['address', f.address],
    ['broker', f.broker === undefined ? undefined : BROKER_WORDS[f.broker]],
    ['first readings', f.firsts?.join(', ')],
    ['not started', f.refused?.join(', ')],
  ]
  return all.flatMap(([name, value]) =>
    value === undefined || value === '' ? [] : [[name, value] as [string, string]],
  )
}
