import type { WebDriver } from 'selenium-webdriver'
import { afterAll, beforeAll, expect } from 'vitest'
import { type Demo, hands, openBrowser, startDemo } from './demo'
import { violationsOf } from './violations'

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
    opened.noViolations = async () => expect(await violationsOf(opened.driver)).toEqual([])
  }, 240_000)
  afterAll(async () => {
    await opened.driver?.quit()
    await opened.demo?.stop()
  })
  return opened
}
