import { AxeBuilder } from '@axe-core/webdriverjs'
import type { WebDriver } from 'selenium-webdriver'
import { afterAll, beforeAll, expect } from 'vitest'
import { type Demo, hands, openBrowser, startDemo } from './demo'

export interface Opened {
  demo: Demo
  driver: WebDriver
  page: ReturnType<typeof hands>
  noViolations: () => Promise<void>
}

/** The demo in a browser for all tests of a file: begun before them, ended after them. */
export function demoInBrowser(): Opened {
  const opened = {} as Opened
  beforeAll(async () => {
    opened.demo = await startDemo()
    opened.driver = await openBrowser()
    opened.page = hands(opened.driver, opened.demo.url)
    opened.noViolations = async () => {
      // The pages have no frames. The way for those gives a renderer one second to answer, which a busy machine misses.
      const { violations } = await new AxeBuilder(opened.driver).setLegacyMode().analyze()
      expect(
        violations.map(
          (v) =>
            `${v.id}: ${v.nodes
              .map((n) => n.target.join(' '))
              .slice(0, 3)
              .join(' · ')}`,
        ),
      ).toEqual([])
    }
  }, 240_000)
  afterAll(async () => {
    await opened.driver?.quit()
    await opened.demo?.stop()
  })
  return opened
}
