import { WorkThrough } from './WorkThrough'

export default function Page() {
  return <WorkThrough />
}
