import { Door } from './Door'

export default function Page() {
  return <Door />
}
