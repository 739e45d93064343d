import { Ledger } from './Ledger'

export default function Page() {
  return <Ledger />
}
