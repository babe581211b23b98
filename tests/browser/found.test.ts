// What people look for, they find where they look: by the words that they look for, within two presses from the page that opens.
import { expect, type Locator, type Page } from '@playwright/test'
import { changed, putRule } from '../support/clauses'
import { accessible, row, send, signIn, undoByKey, url } from './support/helpers'
import { sessionOf, test } from './support/test'

const PRESSES = 2

/** Opens the page that one begins on, and counts what is pressed from there. */
async function beginning(page: Page, account: string) {
  await signIn(page, account, '/')
  await expect(page.getByRole('navigation', { name: 'Main menu' })).toBeVisible()
  let presses = 0
  return {
    async press(what: Locator) {
      await what.click()
      presses++
    },
    async found(...what: Locator[]) {
      for (const one of what) await expect(one).toBeVisible()
      expect(presses).toBeLessThanOrEqual(PRESSES)
    },
  }
}
const button = (page: Page, name: string | RegExp) => page.getByRole('button', { name })
const link = (page: Page, name: string) => page.getByRole('link', { name, exact: true })
const menu = (page: Page) => page.getByLabel('Ines Varga, administrator')
const fee = 'the release fee is due'

test('block a sender, and a rule from the same message: one panel, set otherwise', async ({ page }) => {
  await send({ from: 'a@lookfor.test', subject: 'lookfor block', text: 'quarter deck offer' })
  const { press, found } = await beginning(page, 'worker')
  await press(row(page, 'lookfor block'))
  await found(button(page, 'Block sender…'), button(page, 'New rule from this…'), button(page, 'Mark wanted'), button(page, 'Mark unwanted'))
  // All of it in at most two rows.
  const places = await page.locator('aside footer').getByRole('button')
    .evaluateAll(all => all.map(e => e.getBoundingClientRect().bottom).sort((a, b) => a - b))
  expect(places.filter((bottom, i) => i === 0 || bottom - places[i - 1]! > 8).length).toBeLessThanOrEqual(2)
  await press(button(page, 'Block sender…'))
  const panel = page.getByRole('region', { name: /^Block/ })
  await found(panel.getByText('a@lookfor.test').first())
  await expect(page.getByRole('combobox', { name: 'Save as' })).toHaveCount(1)
  await page.keyboard.press('Escape')
  await button(page, 'New rule from this…').click()
  await expect(panel).toBeVisible()
  await accessible(page)
  await page.keyboard.press('Escape')
})

test('allow a domain', async ({ page }) => {
  await changed(await sessionOf('admin'), putRule('Lookfor', { id: 'lookfor', when: { phrases: ['bilge offer'] } }))
  await send({ from: 'b@allowed-domain.test', subject: 'lookfor allow', text: 'bilge offer' })
  const { press, found } = await beginning(page, 'worker')
  await press(row(page, 'lookfor allow'))
  await press(button(page, 'Allow sender…'))
  await found(page.getByRole('radio', { name: /@allowed-domain\.test/ }).first())
})

test('why a message was held; a request of its release, with a note', async ({ page }) => {
  await send({ from: 'c@elsewhere.example', subject: 'lookfor held', text: fee })
  const why = await beginning(page, 'worker')
  await why.press(row(page, 'lookfor held'))
  await why.press(page.getByRole('tab', { name: 'Reasons' }))
  await why.found(page.getByText('because rule “Fee demands”').first())

  const { press, found } = await beginning(page, 'worker')
  await press(row(page, 'lookfor held'))
  await press(button(page, 'Request release…'))
  const note = page.getByLabel('Note to the reviewer')
  await found(note)
  await expect(note).toBeFocused()
  await accessible(page)
  await page.keyboard.type('our own invoice')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Requested release of “lookfor held”. The answer appears in Review.')).toBeVisible()
  await row(page, 'lookfor held').click()
  await expect(page.getByText('Its release was requested.')).toBeVisible()
  await expect(button(page, 'Request release…')).toHaveCount(0)
})

test('release a message, from Mail and from Review', async ({ page }) => {
  await send({ from: 'd@elsewhere.example', subject: 'lookfor release', text: fee })
  const { press, found } = await beginning(page, 'admin')
  await press(row(page, 'lookfor release'))
  await found(page.getByText('Quarantine “General”').last())
  await press(page.getByRole('button', { name: 'Release', exact: true }))
  await found(page.getByText('Released “lookfor release”.'))
  await undoByKey(page)
  const review = await beginning(page, 'reviewer')
  await review.found(button(page, 'Release (wanted)'))
})

test('a fix, so that a mistake does not happen again', async ({ page }) => {
  const { press, found } = await beginning(page, 'admin')
  await press(page.getByRole('link', { name: /^Review/ }))
  await found(page.getByRole('heading', { name: 'Prevent this from happening again' }))
})

test('a lost message; the filter comes along, and back', async ({ page }) => {
  const { press, found } = await beginning(page, 'admin')
  await press(link(page, 'Message log'))
  await found(page.getByLabel('From', { exact: true }), page.getByLabel('To', { exact: true }), page.getByText('A message that is not listed here never arrived.'))
  // Rows, as many as there are in Messages.
  await expect.poll(() => page.getByRole('row').count()).toBeGreaterThan(16)
  const window = (await page.getByRole('grid', { name: 'Message log' }).boundingBox())!
  const sixteenth = (await page.getByRole('row').nth(16).boundingBox())!
  expect(sixteenth.y + sixteenth.height).toBeLessThanOrEqual(window.y + window.height)
  await page.goto(url('/mail?since=2026-11-01&words=invoice'))
  await link(page, 'Message log').click()
  await expect(page).toHaveURL(/\/mail\/log\?.*since=2026-11-01/)
  await expect(page.getByLabel('Search', { exact: true })).toHaveValue('invoice')
  await link(page, 'Messages').click()
  await expect(page).toHaveURL(/\/mail\?.*since=2026-11-01/)
  await expect(page.getByLabel('Search', { exact: true })).toHaveValue('invoice')
})

test('who changed what, before and after, and it leads there', async ({ page }) => {
  const admin = await sessionOf('admin')
  await changed(admin, putRule('Looked up', { id: 'looked-up', when: { phrases: ['old wording'] } }))
  await changed(admin, putRule('Looked up', { id: 'looked-up', when: { phrases: ['new wording'] } }))
  const { press, found } = await beginning(page, 'admin')
  await press(link(page, 'Audit log'))
  const event = page.getByRole('listitem').filter({ hasText: 'new wording' }).filter({ hasText: 'old wording' })
  await found(event.getByText('Ines Varga'))
  await expect(event.getByRole('definition')).toHaveText([/“old wording”/, /“new wording”/])
  await accessible(page)
  await press(event.getByRole('link', { name: 'Rule “Looked up”' }))
  await found(page.getByRole('heading', { name: 'History' }))
  await expect(page.getByRole('listitem').filter({ hasText: 'did not exist' })).toContainText('old wording')
  await accessible(page)
})

test('how long quarantine is kept, and all the rest', async ({ page }) => {
  const { press, found } = await beginning(page, 'admin')
  await press(menu(page))
  await found(link(page, 'Settings'), button(page, 'Sign out'))
  await press(link(page, 'Retention'))
  const part = page.getByRole('region', { name: 'Retention' })
  await found(part.getByText('General'), part.getByLabel('Days in Bin'), part.getByLabel('Days in Spam'), part.getByLabel('Days for the message log'))
  await accessible(page)
})

test('add a user', async ({ page }) => {
  const { press, found } = await beginning(page, 'admin')
  await press(menu(page))
  await press(link(page, 'Settings'))
  await found(button(page, 'Add user…'))
})

test('undo, also after a reload', async ({ page }) => {
  await send({ from: 'e@elsewhere.example', subject: 'lookfor undo', text: 'x' })
  await signIn(page, 'admin')
  await row(page, 'lookfor undo').click()
  await page.keyboard.press('5')
  await expect(page.getByText('Moved “lookfor undo” to Bin.')).toBeVisible()
  const { press, found } = await beginning(page, 'admin')
  await press(menu(page))
  await press(button(page, 'Undo').first())
  await found(page.getByText(/^Undone/))
})

test('of eighty lists one is found, sorted and narrowed', async ({ page }) => {
  const admin = await sessionOf('admin')
  const lists = Array.from({ length: 80 }, (_, i) => ({ type: 'put', kind: 'list', value: {
    id: `berth-${i}`, name: `Berth ${i}`, owner: 'organisation', usualSide: 'block', enabled: true,
  } }))
  const { eventId } = await changed(admin, ...lists)
  await signIn(page, 'admin', '/lists')
  const table = page.getByRole('region', { name: 'Table of lists' })
  const names = () => table.getByRole('row').getByRole('link').and(page.locator('td:first-child a')).allTextContents()
  await expect(table.getByRole('rowheader').or(table.locator('th[scope=rowgroup]')).first()).toHaveText('The whole organisation')
  await page.getByLabel('Search lists').fill('berth 7')
  const sevens = [7, 17, 27, 37, 47, 57, 67, ...Array.from({ length: 10 }, (_, i) => 70 + i)]
  await expect.poll(async () => (await names()).map(n => n.trim())).toEqual(sevens.map(n => `Berth ${n}`))
  await table.getByRole('button', { name: 'Name' }).click()
  await expect.poll(async () => (await names())[0]!.trim()).toBe('Berth 79')
  await page.getByLabel('Search lists').fill('')
  await table.getByRole('button', { name: 'Messages matched' }).click()
  await expect(table.getByRole('columnheader', { name: 'Messages matched' })).toHaveAttribute('aria-sort', 'descending')
  await expect.poll(async () => (await names())[0]!.trim()).toBe('Regular callers')
  await accessible(page)
  await admin('POST', `/api/audit-events/${eventId}/undo`)
})

test('the focus is never lost: keys work after a select, after near words, after a reason', async ({ page }) => {
  await send({ from: 'f@elsewhere.example', subject: 'lookfor focus', text: 'x' })
  await signIn(page, 'admin', '/mail?words=lookfor')
  await page.getByRole('combobox', { name: 'Mark' }).click({ force: true })
  await page.getByRole('option', { name: 'Not marked' }).click()
  await expect(page).toHaveURL(/judgement=unmarked/)
  await page.keyboard.press('Enter')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('article')).toBeVisible()

  await page.goto(url('/rules/new'))
  await page.getByLabel('Words and phrases').fill('anchor')
  await button(page, '+ More options').click()
  await button(page, '+ Only near other words').click()
  await expect.poll(() => page.evaluate(() => document.activeElement?.tagName)).toMatch(/INPUT|TEXTAREA/)
})
