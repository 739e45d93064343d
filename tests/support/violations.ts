import { AxeBuilder } from '@axe-core/webdriverjs'
import type { WebDriver } from 'selenium-webdriver'

/** What keeps people from using the page as it stands: rule, and where. */
export async function violationsOf(driver: WebDriver): Promise<string[]> {
  // The pages have no frames: the way for those gives the page one second to answer, which a busy machine misses.
  const { violations } = await new AxeBuilder(driver)
    .setLegacyMode()
    .options({ resultTypes: ['violations'] })
    .analyze()
  return violations.map((v) => {
    const places = v.nodes.slice(0, 3).map((n) => n.target.join(' '))
    return `${v.id}: ${places.join(' · ')}`
  })
}
