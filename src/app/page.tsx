import { Shop } from './Shop'

export default function Page() {
  return <Shop />
}
