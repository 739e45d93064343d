import { Entities } from './Entities'

export default function Page() {
  return <Entities />
}
