import { StandIns } from './StandIns'

export default function Page() {
  return <StandIns />
}
