import type { Working } from '../../core/working/working'

/** The arithmetic behind a number, step by step. */
export function WorkingSteps({ working }: { working: Working }) {
  return (
    <div className="working">
      {working.steps.map((s) => (
        <div key={s.gives}>
          <span className="soft">{s.gives}</span>
          <br />
          {s.formula}
          <br />
          {s.numbers}
          <br />= <b>{s.result}</b>
        </div>
      ))}
      <span className="soft">{working.source}</span>
    </div>
  )
}
