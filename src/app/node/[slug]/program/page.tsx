import { Suspense } from 'react'
import { Program } from './Program'

export default function Page() {
  return (
    <Suspense>
      <Program />
    </Suspense>
  )
}
