import { Suspense } from 'react'
import { Power } from './Power'

export default function Page() {
  return (
    <Suspense>
      <Power />
    </Suspense>
  )
}
