import { Suspense } from 'react'
import { Pins } from './Pins'

export default function Page() {
  return (
    <Suspense>
      <Pins />
    </Suspense>
  )
}
