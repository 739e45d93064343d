import { Air } from './Air'

export default function Page() {
  return <Air />
}
