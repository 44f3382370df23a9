import { mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Builder, By, error, Key, until, type WebDriver, type WebElement } from 'selenium-webdriver'
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js'

/** How long the page is waited for (milliseconds). */
const PATIENCE = 15_000

/** Whether an element can be seen; one that the page has put another in the place of cannot. */
function isSeen(element: WebElement): Promise<boolean> {
  return element.isDisplayed().catch((failure: unknown) => {
    if (failure instanceof error.StaleElementReferenceError) return false
    throw failure
  })
}

/** Debian's Chromium, without a window and without asking anything outside. */
export class Browser {
  private readonly profile = mkdtempSync(join(tmpdir(), 'patient-key-browser-'))
  private started: WebDriver | undefined

  /** @param names names that lead to this machine, as those of another would */
  constructor(private readonly options: { dark?: boolean; downloads?: string; names?: string[] } = {}) {}

  get driver(): WebDriver {
    if (!this.started) throw new Error('the browser has not been started')
    return this.started
  }

  async start(): Promise<this> {
    const { dark = false, downloads = tmpdir(), names = [] } = this.options
    const options = new Options().setChromeBinaryPath('/usr/bin/chromium')
    options.addArguments(
      '--headless',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      `--user-data-dir=${this.profile}`,
      '--window-size=1280,800',
      '--hide-scrollbars',
      '--force-prefers-reduced-motion',
      ...(names.length > 0
        ? [`--host-resolver-rules=${names.map((name) => `MAP ${name} 127.0.0.1`).join(', ')}`]
        : []),
      ...(dark ? ['--blink-settings=preferredColorScheme=0'] : [])
    )
    options.setUserPreferences({
      'download.default_directory': downloads,
      'download.prompt_for_download': false
    })
    const driver = (this.started = await new Builder()
      .forBrowser('chrome')
      .setChromeOptions(options)
      .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
      .build())
    await driver.manage().window().setRect({ width: 1280, height: 800 })
    // The window's frame takes some of the height: the page itself is to be 1280 by 800.
    const [width, height] = await driver.executeScript<[number, number]>('return [innerWidth, innerHeight]')
    await driver
      .manage()
      .window()
      .setRect({ width: 2560 - width, height: 1600 - height })
    return this
  }

  async stop(): Promise<void> {
    await this.started?.quit()
    rmSync(this.profile, { recursive: true, force: true })
  }

  /**
   * The path of the file whose name ends so, when all of it is there.
   * While it is on its way, the browser holds its name with an empty file, and writes into another beside it.
   */
  async downloaded(ending: string): Promise<string> {
    const folder = this.options.downloads ?? tmpdir()
    const find = (): string | undefined => {
      const name = readdirSync(folder).find((each) => each.endsWith(ending))
      return name !== undefined && statSync(join(folder, name)).size > 0 ? join(folder, name) : undefined
    }
    const found = (): Promise<boolean> => Promise.resolve(find() !== undefined)
    await this.until(`a file …${ending} is downloaded`, found, 60_000)
    return find() as string
  }

  open(address: string): Promise<void> {
    return this.driver.get(address)
  }

  async until(what: string, holds: () => Promise<boolean>, patience = PATIENCE): Promise<void> {
    await this.driver.wait(holds, patience, what)
  }

  /** What the element that has the keyboard is called. */
  focused(): Promise<string> {
    return this.driver.executeScript<string>(
      'return document.activeElement?.getAttribute("aria-label") ?? ""'
    )
  }

  async untilLineHasKeyboard(): Promise<void> {
    await this.until(
      'a line has the keyboard',
      async () =>
        (await this.driver.executeScript('return document.activeElement?.getAttribute("role")')) === 'row'
    )
  }

  /** The element, when it is there and can be seen. */
  async see(css: string): Promise<WebElement> {
    const find = async (): Promise<WebElement | undefined> => {
      const [first] = await this.driver.findElements(By.css(css))
      return first && (await isSeen(first)) ? first : undefined
    }
    return (await this.driver.wait(find, PATIENCE, `${css} cannot be seen`)) as WebElement
  }

  /** The element whose accessible name begins with the words: a label, or what stands in it. */
  async named(tag: string, words: string): Promise<WebElement> {
    const quoted = `"${words}"`
    return this.driver.wait(
      until.elementLocated(
        By.xpath(
          `//${tag}[starts-with(@aria-label, ${quoted}) or starts-with(normalize-space(.), ${quoted})]`
        )
      ),
      PATIENCE,
      `there is no ${tag} “${words}”`
    )
  }

  async click(tag: string, words: string): Promise<void> {
    await this.until(`${tag} “${words}” can be clicked`, async () => {
      try {
        const element = await this.named(tag, words)
        if (!(await element.isEnabled())) return false
        await element.click()
        return true
      } catch (failure) {
        // It was drawn anew between being found and being clicked.
        if (failure instanceof error.StaleElementReferenceError) return false
        throw failure
      }
    })
  }

  /** Types on the keyboard, wherever it is. */
  async type(...keys: string[]): Promise<void> {
    await this.driver
      .actions()
      .sendKeys(...keys)
      .perform()
  }

  async chord(modifier: string, key: string): Promise<void> {
    await this.driver.actions().keyDown(modifier).sendKeys(key).keyUp(modifier).perform()
  }

  /** What the page shows as text. */
  text(css = 'body'): Promise<string> {
    return this.driver.executeScript<string>(
      'return [...document.querySelectorAll(arguments[0])].map((each) => each.innerText).join("\\n")',
      css
    )
  }

  values(css: string): Promise<string[]> {
    return this.driver.executeScript<string[]>(
      'return [...document.querySelectorAll(arguments[0])].map((each) => each.value)',
      css
    )
  }

  /** Waits until the text of the page, or of a part, holds the words. */
  async says(words: string, css = 'body', patience = PATIENCE): Promise<void> {
    let last = ''
    await this.driver
      .wait(async () => (last = await this.text(css)).includes(words), patience)
      .catch(() => {
        throw new Error(`${css} does not say “${words}”, but:\n${last.slice(0, 3000)}`)
      })
  }

  /** Bytes of JavaScript that the page holds, after what it no longer needs was collected. */
  async heap(): Promise<number> {
    const driver = this.driver as WebDriver & {
      sendDevToolsCommand(name: string, params: object): Promise<void>
      sendAndGetDevToolsCommand(name: string, params: object): Promise<{ usedSize: number }>
    }
    await driver.sendDevToolsCommand('HeapProfiler.collectGarbage', {})
    return (await driver.sendAndGetDevToolsCommand('Runtime.getHeapUsage', {})).usedSize
  }

  async picture(): Promise<Buffer> {
    await this.driver.executeAsyncScript('document.fonts.ready.then(() => setTimeout(arguments[0], 350))')
    return Buffer.from(await this.driver.takeScreenshot(), 'base64')
  }
}

export { By, Key }
