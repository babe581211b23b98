import { expect, type Page } from '@playwright/test'
import axe from 'axe-core'
import { addressOf } from '../../support/office'
import { deliver, type Delivered } from '../../support/smtp'
import { gate, sessionOf } from './test'
import { WORDS } from './words'

export const url = (path: string) => `${gate().url}${path}`

/**
 * Signs in with a session that is there already, and opens a page. That is Mail where none is named: a reviewer would begin in Review,
 * and look at a message there.
 */
export async function signIn(page: Page, account: string, path = '/mail') {
  const { cookie } = await sessionOf(account)
  const cookies = cookie.split('; ').map((pair) => {
    const at = pair.indexOf('=')
    return { name: pair.slice(0, at), value: pair.slice(at + 1), url: gate().url }
  })
  await page.context().addCookies(cookies)
  await page.goto(url(path))
  if (path === '/mail') await expect(page.getByRole('row').nth(1)).toBeVisible()
}

/** Sends one message by real SMTP; through the stand-in relay it is verified. */
export async function send(letter: Delivered) {
  expect(await deliver(gate().smtpPort, { to: addressOf('worker'), ...letter })).toMatch(/^250/)
}

/** Chooses in one of our selects by its name. */
export async function choose(page: Page, select: string, option: string) {
  await page.getByRole('combobox', { name: select }).last().click({ force: true })
  await page.getByRole('option', { name: option, exact: true }).locator('visible=true').click()
}

/** Takes the last event back by its key, and waits until it is told. */
export async function undoByKey(page: Page) {
  // In a field the key is the field's own: after a form was saved its page may still be there for a moment.
  await page.waitForFunction(() => !document.activeElement?.closest('input, textarea, select, [contenteditable]'))
  await page.keyboard.press('Control+z')
  await expect(page.getByText(WORDS.undone)).toBeVisible()
}

/** Presses the button that saves. */
export const save = (page: Page) => page.getByRole('button', { name: WORDS.save }).click()

/** Saves a rule or a list by its button, and waits until it is told. */
export async function saved(page: Page, name: string) {
  await save(page)
  await expect(page.getByText(WORDS.saved(name))).toBeVisible()
}

/** The row of the list of messages with a subject. */
export const row = (page: Page, subject: string) => page.getByRole('row').filter({ hasText: subject })

/** Waits until so many messages are shown. */
export const countShown = (page: Page, n: number) => expect(page.getByText(WORDS.shown(n), { exact: true })).toBeVisible()

const TAGS = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']

/** Rows that are made as those before them are: looking at hundreds of them takes longer than the rest of the test. */
const MORE_ROWS = ':is([role=row], tr):nth-child(n + 11)'
/** What differs in the dark: the colours. */
const COLOURS = ['color-contrast', 'link-in-text-block']

/** Waits until nothing fades in or out: what is half transparent, as a list of options that closes, has no contrast. */
const settled = (page: Page) => page.evaluate(async () => {
  const ending = () => document.getAnimations().filter(a => Number.isFinite(a.effect?.getComputedTiming().endTime))
  for (let all = ending(); all.length; all = ending()) await Promise.allSettled(all.map(a => a.finished))
})

/**
 * No serious accessibility violation (axe, WCAG 2.2 A and AA). Frames of other origins, which it would pass over, there are none.
 * @param colours only what depends on colours
 */
export async function accessible(page: Page, { colours = false } = {}) {
  // Once a page that was loaded: reading it takes as long as looking at a small page.
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe.source)
  await settled(page)
  const serious = await page.evaluate(
    async ({ runOnly, exclude }) => {
      const options = { runOnly, resultTypes: ['violations' as const] }
      const { violations } = await (window as unknown as { axe: typeof axe }).axe.run({ exclude }, options)
      return violations
        .filter(v => v.impact === 'serious' || v.impact === 'critical')
        .map(v => `${v.id}: ${v.nodes.map(n => n.target.join(' ')).slice(0, 3).join(' | ')}`)
    },
    { runOnly: colours ? { type: 'rule' as const, values: COLOURS } : { type: 'tag' as const, values: TAGS }, exclude: [MORE_ROWS] },
  )
  expect(serious).toEqual([])
}
