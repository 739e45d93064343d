import { Suspense } from 'react'
import { Wires } from './Wires'

export default function Page() {
  return (
    <Suspense>
      <Wires />
    </Suspense>
  )
}
