import { Suspense } from 'react'
import { Tune } from './Tune'

export default function Page() {
  return (
    <Suspense>
      <Tune />
    </Suspense>
  )
}
