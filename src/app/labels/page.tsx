import { Suspense } from 'react'
import { Labels } from './Labels'

export default function Page() {
  return (
    <Suspense>
      <Labels />
    </Suspense>
  )
}
