import { Suspense } from 'react'
import { Parts } from './Parts'

export default function Page() {
  return (
    <Suspense>
      <Parts />
    </Suspense>
  )
}
