import { Shelf } from './Shelf'

export default function Page() {
  return <Shelf />
}
