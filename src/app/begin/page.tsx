import { Begin } from './Begin'

export default function Page() {
  return <Begin />
}
