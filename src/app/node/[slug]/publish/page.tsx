import { Suspense } from 'react'
import { Publish } from './Publish'

export default function Page() {
  return (
    <Suspense>
      <Publish />
    </Suspense>
  )
}
