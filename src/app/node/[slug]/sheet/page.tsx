import { BenchSheet } from './BenchSheet'

export default function Page() {
  return <BenchSheet />
}
