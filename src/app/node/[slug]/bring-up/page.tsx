import { Suspense } from 'react'
import { BringUp } from './BringUp'

export default function Page() {
  return (
    <Suspense>
      <BringUp />
    </Suspense>
  )
}
