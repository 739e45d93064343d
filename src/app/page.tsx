import { ShopInBrowser } from './ShopInBrowser'

export default function Page() {
  return <ShopInBrowser />
}
