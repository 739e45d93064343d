import { Suspense } from 'react'
import { Loom } from './Loom'

export default function Page() {
  return (
    <Suspense>
      <Loom />
    </Suspense>
  )
}
