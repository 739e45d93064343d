import { spawn, type ChildProcess } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { Builder, By, error, Key, type WebDriver, type WebElement } from 'selenium-webdriver'
import chrome from 'selenium-webdriver/chrome.js'
import { freePort, tempFolder, until } from './product'

export interface Demo {
  url: string
  mqttUrl: string
  outsidePassword: string
  /** Its data folder. */
  folder: string
  output: () => string
  child: ChildProcess
  stop: () => Promise<number | null>
}

/** `bin/demo` itself, on free ports and a folder of its own. */
export async function startDemo(dataFolder = tempFolder(), args: string[] = []): Promise<Demo> {
  return startCommand('bin/demo', /outside login: outside (\S+)/, { VIVID_DATA: dataFolder }, args)
}

/** `bin/start`, a shop of one's own: empty, without stand-ins. */
export async function startOwn(env: Record<string, string> = {}): Promise<Demo> {
  return startCommand('bin/start', /(Ctrl-C) ends/, { VIVID_DATA: tempFolder(), ...env })
}

async function startCommand(
  command: string,
  ready: RegExp,
  env: Record<string, string>,
  args: string[] = [],
): Promise<Demo> {
  const [port, mqttPort] = [await freePort(), await freePort()]
  const child = spawn(command, args, {
    env: { ...process.env, NODE_ENV: 'production', PORT: String(port), MQTT_PORT: String(mqttPort), ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let output = ''
  child.stdout.on('data', (d: Buffer) => {
    output += d.toString()
  })
  child.stderr.on('data', (d: Buffer) => {
    output += d.toString()
  })
  const found = await until(
    () => ready.exec(output) ?? (child.exitCode !== null && ['', '']),
    180_000,
    () => output,
  )
  if (!found[1]) throw new Error(`${command} did not start: ${output}`)
  const stop = () =>
    new Promise<number | null>((done) => {
      if (child.exitCode !== null) return done(child.exitCode)
      child.once('exit', (code) => done(code))
      child.kill('SIGINT')
    })
  return {
    url: `http://127.0.0.1:${port}`,
    mqttUrl: `mqtt://127.0.0.1:${mqttPort}`,
    outsidePassword: found[1],
    folder: env.VIVID_DATA ?? '',
    output: () => output,
    child,
    stop,
  }
}

const FLAGS = [
  '--headless',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--window-size=1280,800',
  '--hide-scrollbars',
]

export async function openBrowser(): Promise<WebDriver> {
  const options = new chrome.Options()
  options.setChromeBinaryPath('/usr/bin/chromium')
  options.addArguments(...FLAGS, `--user-data-dir=${tempFolder()}`)
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
    .build()
  await (driver as chrome.Driver).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width: 1280,
    height: 800,
    deviceScaleFactor: 1,
    mobile: false,
  })
  return driver
}

/** The longest a person would wait at a machine that has much else to do, ms. */
const PATIENCE = 30_000

/** Short words for what a person does at the screen. */
export function hands(driver: WebDriver, url: string) {
  const find = (css: string, withinMs = PATIENCE): Promise<WebElement> =>
    driver.wait(
      async () => (await driver.findElements(By.css(css)))[0] ?? null,
      withinMs,
      `nothing on the page matches ${css}`,
    ) as Promise<WebElement>
  const named = (text: string, withinMs = PATIENCE): Promise<WebElement> =>
    driver.wait(
      async () =>
        (
          await driver.findElements(By.xpath(`//*[self::button or self::a][contains(normalize-space(.),"${text}")]`))
        )[0] ?? null,
      withinMs,
      `no button or link “${text}”`,
    ) as Promise<WebElement>
  /** What moves away under the finger, or is covered for a moment by what the page says, is pressed again. */
  const pressed = (wanted: () => Promise<WebElement>): Promise<unknown> =>
    driver.wait(async () => {
      try {
        await (await wanted()).click()
        return true
      } catch (e) {
        if (e instanceof error.ElementClickInterceptedError || e instanceof error.StaleElementReferenceError)
          return false
        throw e
      }
    }, PATIENCE)
  return {
    find,
    named,
    go: async (at: string) => {
      await driver.get(url + at)
      await find('[data-link="up"]')
    },
    click: (css: string) => pressed(() => find(css)),
    press: (text: string) => pressed(() => named(text)),
    text: async (css: string) => (await find(css)).getText(),
    attribute: async (css: string, name: string) => (await find(css)).getAttribute(name),
    count: async (css: string) => (await driver.findElements(By.css(css))).length,
    type: async (css: string, text: string) => {
      const field = await find(css)
      await field.sendKeys(Key.chord(Key.CONTROL, 'a'), text)
    },
    select: async (css: string, option: string) => {
      const choices = await (await find(css)).findElements(By.css('option'))
      for (const choice of choices) if ((await choice.getText()).trim() === option) return choice.click()
      throw new Error(`${css} has no choice “${option}”`)
    },
    keys: async (...keys: string[]) =>
      driver
        .actions()
        .sendKeys(...keys)
        .perform(),
    /** One key while others are held. */
    held: async (key: string, ...modifiers: string[]) => {
      const actions = driver.actions()
      for (const m of modifiers) actions.keyDown(m)
      actions.sendKeys(key)
      for (const m of modifiers) actions.keyUp(m)
      await actions.perform()
    },
    /** Waits until the page has what is asked for. */
    sees: async (what: string, probe: () => Promise<boolean>, withinMs = PATIENCE) => {
      await driver.wait(async () => probe().catch(() => false), withinMs, `not seen within ${withinMs} ms: ${what}`)
    },
    saved: async () => {
      await driver.wait(
        async () => (await driver.findElements(By.css('[data-saving="saved"]'))).length > 0,
        PATIENCE,
        'not saved',
      )
    },
    picture: async (file: string) => {
      fs.mkdirSync(path.dirname(file), { recursive: true })
      fs.writeFileSync(file, await driver.takeScreenshot(), 'base64')
    },
  }
}
