import { Settings } from './Settings'

export default function Page() {
  return <Settings />
}
