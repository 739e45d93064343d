import { type BringUpStep, STAGES, type StageNumber } from '@/core/bringup/step'

interface StageListProps {
  steps: readonly BringUpStep[]
  /** Keys of steps that are done and as they should be. */
  done: ReadonlySet<string>
  here: StageNumber | null
  onStage: (stage: StageNumber) => void
}

/** The stages as a thread: woven as far as they are done. */
export function StageList({ steps, done, here, onStage }: StageListProps) {
  return (
    <ol className="stages" aria-label="stages">
      {STAGES.map((name, i) => {
        const stage = (i + 1) as StageNumber
        const own = steps.filter((s) => s.stage === stage)
        const n = own.filter((s) => done.has(s.key)).length
        const whole = own.length > 0 && n === own.length
        return (
          <li key={name} className={[whole ? 'is-done' : '', here === stage ? 'is-here' : ''].join(' ')}>
            <button
              type="button"
              disabled={own.length === 0}
              aria-current={here === stage ? 'step' : undefined}
              onClick={() => onStage(stage)}
            >
              <b>{name}</b>
              <span>{own.length === 0 ? 'nothing' : `${n} of ${own.length}`}</span>
            </button>
          </li>
        )
      })}
    </ol>
  )
}
