// Hands touch only what they see: what is meant is what is shown, under filters, for whoever works here.
import { expect, type Page } from '@playwright/test'
import { accessible, choose, countShown, row, saved, send, signIn, url } from './support/helpers'
import { forgetSession, sessionOf, test } from './support/test'
import { WORDS } from './support/words'

const reader = (page: Page) => page.getByRole('article')
/** The row that keys act on. */
const current = (page: Page) => page.getByRole('row').and(page.locator('[aria-current=true]'))
/** How many copies are said to be shown. */
const shown = (page: Page) => page.getByRole('status', { name: 'Number of messages shown' })

test('at page load nothing is meant; under a filter three presses judge the three that were read, one after the other', async ({
  page,
}) => {
  await signIn(page, 'worker')
  for (const n of ['one', 'two', 'three', 'four', 'five'])
    await send({ from: 'a@elsewhere.example', subject: `meantby ${n}`, text: 'x' })
  await page.goto(url('/mail?words=meantby&judgement=unmarked'))
  await countShown(page, 5)
  for (const key of ['u', 'w', '3']) await page.keyboard.press(key)
  await expect(page.getByText('No message selected')).toBeVisible()
  await countShown(page, 5)

  await page.keyboard.press('Enter')
  await expect(current(page)).toContainText('meantby five')
  await expect(reader(page)).toHaveCount(0)
  await page.keyboard.press('Enter')
  for (const n of ['five', 'four', 'three']) {
    await expect(reader(page)).toHaveAccessibleName(`meantby ${n}`)
    await expect(current(page)).toContainText(`meantby ${n}`)
    await page.keyboard.press('u')
    await expect(page.getByText(`Marked “meantby ${n}” as unwanted.`)).toBeVisible()
    await expect(row(page, `meantby ${n}`)).toHaveCount(0)
  }
  await expect(reader(page)).toHaveAccessibleName('meantby two')
  await page.goto(url('/mail?words=meantby'))
  for (const n of ['three', 'four', 'five']) await expect(row(page, `meantby ${n}`)).toContainText('unwanted')
  for (const n of ['one', 'two']) await expect(row(page, `meantby ${n}`)).not.toContainText('wanted')

  // Faster than the answers come: each press is about what its recipient shows.
  await page.goto(url('/mail?words=meantby'))
  await row(page, 'meantby five').click()
  await expect(reader(page)).toHaveAccessibleName('meantby five')
  for (let n = 0; n < 5; n++) await page.keyboard.press('w')
  for (const n of ['one', 'two', 'three', 'four', 'five'])
    await expect(row(page, `meantby ${n}`).getByText('wanted', { exact: true })).toBeVisible()
  await expect(page.getByText('No more messages.')).toBeVisible()
})

test('a button that says a state looks pressed only if it is so; what is chosen is shown instead of what was read', async ({
  page,
}) => {
  await signIn(page, 'worker')
  for (const n of ['one', 'two', 'three']) await send({ from: 'a@elsewhere.example', subject: `pressed ${n}`, text: 'x' })
  await page.goto(url('/mail?words=pressed'))
  await countShown(page, 3)
  await row(page, 'pressed three').click()
  const wanted = page.getByRole('button', { name: 'Mark wanted W', exact: true })
  await expect(wanted).toHaveAttribute('aria-pressed', 'false')
  await expect(wanted).not.toHaveClass(/first/)
  await page.keyboard.press('Shift+ArrowDown')
  await page.keyboard.press('Shift+ArrowDown')
  await expect(page.getByRole('heading', { name: '3 selected' })).toBeVisible()
  await expect(reader(page)).toHaveCount(0)
  await accessible(page)
  await page.keyboard.press('Escape')
  await row(page, 'pressed three').click({ modifiers: ['Control'] })
  await row(page, 'pressed one').click({ modifiers: ['Shift'] })
  await expect(page.getByRole('heading', { name: '3 selected' })).toBeVisible()
  await row(page, 'pressed two').click()
  await expect(reader(page)).toHaveAccessibleName('pressed two')
  await page.keyboard.press('5')
  await expect(row(page, 'pressed two')).toContainText('Bin')
  await expect(page.getByRole('row').filter({ hasText: 'Bin' })).toHaveCount(1)
})

test('hundreds of messages are chosen by one key, moved, and taken back after a reload', async ({ page }) => {
  await signIn(page, 'admin', '/mail?lane=inbox')
  await expect(shown(page)).toHaveText(/^[\d,]+ messages$/)
  const inbox = await shown(page).textContent()
  await page.goto(url('/mail'))
  await expect(shown(page)).toHaveText(/^[\d,]+ messages$/)
  const all = Number((await shown(page).textContent())!.replace(/\D/g, ''))
  expect(all).toBeGreaterThan(300)
  await page.getByRole('row').nth(1).click()
  await page.keyboard.press('Control+a')
  await expect(page.getByRole('heading', { name: `${all.toLocaleString('en-GB')} selected` })).toBeVisible()
  await accessible(page)
  await page.keyboard.press('5')
  await expect(page.getByText(/^Moved .* to Bin\./)).toBeVisible({ timeout: 120_000 })
  await page.goto(url('/mail?lane=inbox'))
  await expect(page.getByRole('heading', { name: 'No messages found' })).toBeVisible()

  await page.reload()
  await page.getByLabel('Ines Varga, administrator').click()
  await expect(page.getByText(/moved [\d,]+ messages to Bin/).first()).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Undo' }).first().click()
  await expect(page.getByText(/^Undone\. [\d,]+ messages are as before/)).toBeVisible({ timeout: 60_000 })
  await expect(shown(page)).toHaveText(inbox!)
})

test('a reviewer’s day: a held message is released and leaves their view, with its notice and undo; each look is on record once', async ({
  page,
}) => {
  await signIn(page, 'reviewer')
  for (const n of ['one', 'two'])
    await send({ from: 'x@elsewhere.example', subject: `dayheld ${n}`, text: 'the release fee is due' })
  await page.goto(url('/mail?words=dayheld'))
  await countShown(page, 2)
  await expect(page.getByRole('columnheader', { name: 'Recipient' })).toBeVisible()
  await expect(row(page, 'dayheld two')).toContainText('Oskar Brandt')
  await row(page, 'dayheld two').click()
  await page.getByRole('tab', { name: 'Reasons' }).click()
  await expect(reader(page)).toContainText('Held in quarantine “General” because rule “Fee demands”')
  await page.keyboard.press('1')
  await expect(page.getByText('Released “dayheld two”.')).toBeVisible()
  await expect(page.getByText('This message does not exist')).toHaveCount(0)
  await expect(reader(page)).toHaveAccessibleName('dayheld one')
  await countShown(page, 1)
  await page.getByRole('button', { name: WORDS.undo }).click()
  await expect(page.getByText(WORDS.undoneOne)).toBeVisible()
  await countShown(page, 2)
  await page.keyboard.press('w')
  await expect(page.getByText('Marked “dayheld one” as wanted.')).toBeVisible()

  await page.getByRole('link', { name: 'Audit log' }).click()
  await expect(page.getByText('marked 1 message as wanted').first()).toBeVisible()
  await expect(page.getByText('opened another user’s message')).toHaveCount(2)
  await accessible(page)
  await page.getByRole('button', { name: 'Undo' }).first().click()
  await expect(page.getByText(WORDS.undoneOne)).toBeVisible()
  await expect(page.getByRole('listitem').filter({ hasText: 'marked 1 message as wanted' }).nth(1)).toContainText('undone')
})

test('a worker is offered no key that would be refused, and is told why', async ({ page }) => {
  await signIn(page, 'worker')
  await send({ from: 'x@elsewhere.example', subject: 'keptaway', text: 'the release fee is due' })
  await page.goto(url('/mail?words=keptaway'))
  await row(page, 'keptaway').click()
  await expect(page.getByRole('button', { name: 'Request release…' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Release', exact: true })).toHaveCount(0)
  await expect(page.getByRole('button', { name: 'Move to' })).toHaveCount(0)
  await page.keyboard.press('1')
  await expect(page.getByRole('status').filter({ hasText: WORDS.releaser })).toBeVisible()
  await expect(row(page, 'keptaway')).toContainText('General')
  await accessible(page)
})

test('the notice stands on a line of its own; unsaved work is asked about once', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await page.getByLabel('Words and phrases').fill('foot of the window')
  await saved(page, 'Foot of the window')
  await page.getByRole('link', { name: 'Foot of the window', exact: true }).click()
  const button = page.getByRole('button', { name: WORDS.save })
  await expect(button).toBeInViewport()
  const said = page.getByRole('status').filter({ hasText: WORDS.saved('Foot of the window') })
  const [notice, pressed] = [(await said.boundingBox())!, (await button.boundingBox())!]
  expect(pressed.y + pressed.height).toBeLessThanOrEqual(notice.y)

  await page.getByLabel('Words and phrases').fill('foot of the door')
  await page.getByRole('link', { name: 'Lists' }).click()
  await expect(page.getByText(WORDS.notSaved)).toBeVisible()
  await page.getByRole('button', { name: 'Keep editing' }).click()
  await expect(page.getByLabel('Words and phrases')).toHaveValue('foot of the door')
  await page.getByRole('link', { name: 'Lists' }).click()
  await page.getByRole('button', { name: 'Discard changes' }).click()
  await expect(page).toHaveURL(/\/lists$/)
  await page.getByRole('link', { name: 'Rules' }).click()
  await expect(page).toHaveURL(/\/rules$/)
})

test('“I sent it and you never got it” has an answer to pass on; a link opens just the message that it names', async ({
  page,
}) => {
  await signIn(page, 'worker')
  await send({ from: 'claims@passed-on.test', subject: 'passed on', text: 'x' })
  await page.getByRole('link', { name: 'Message log' }).click()
  await page.getByLabel('From').fill('claims@passed-on.test')
  await countShown(page, 1)
  await expect(row(page, 'passed on')).toContainText('Inbox')
  await accessible(page)
  // Read where messages are read, and acted on there.
  await row(page, 'passed on').click()
  await expect(reader(page)).toHaveAccessibleName('passed on')
  await page.keyboard.press('3')
  await expect(row(page, 'passed on')).toContainText('Spam')
  await page.getByLabel('From').fill('never@passed-on.test')
  await expect(page.getByRole('heading', { name: 'It never arrived here' })).toBeVisible()
  await accessible(page)

  await page.goto(url('/rules/fee-demands'))
  const line = page.getByRole('complementary').getByRole('listitem').getByRole('link').first()
  const id = /open=(\d+)/.exec((await line.getAttribute('href'))!)![1]
  const { subject } = (await (await sessionOf('worker'))('GET', `/api/copies/${id}`)).body
  await line.click()
  await expect(reader(page)).toHaveAccessibleName(subject)
})

test('several senders in one condition are each taken for detect automatically, and are there again', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await choose(page, 'Kind of condition', 'the sender is')
  await page.getByLabel('Sender', { exact: true }).fill('a@tarpaulin.test\n@oakum.test')
  await expect(page.getByText('When the sender is a@tarpaulin.test or @oakum.test, move to Spam.')).toBeVisible()
  await saved(page, 'From a@tarpaulin.test and 1 more')
  for (const from of ['a@tarpaulin.test', 'b@tarpaulin.test', 'b@oakum.test'])
    await send({ from, subject: `severalfrom ${from}`, text: 'x' })
  await page.goto(url('/mail?words=severalfrom'))
  await expect(row(page, 'severalfrom a@tarpaulin')).toContainText('Spam')
  await expect(row(page, 'severalfrom b@tarpaulin')).toContainText('Inbox')
  await expect(row(page, 'severalfrom b@oakum')).toContainText('Spam')
  await page.goto(url('/rules'))
  await page.getByRole('link', { name: 'From a@tarpaulin.test and 1 more', exact: true }).click()
  await expect(page.getByLabel('Sender', { exact: true })).toHaveValue('a@tarpaulin.test\n@oakum.test')
})

test('a network among pasted addresses asks first; a worker’s closed door says whom it shuts out', async ({ page }) => {
  await signIn(page, 'admin', '/lists/speculators')
  await page.getByLabel('Addresses or domains, one per line').fill('m@malt.test\n203.0.113.0/24')
  await page.getByRole('button', { name: 'Add to list' }).click()
  await expect(page.getByText('203.0.113.0/24 is a network')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: /^Add without/ }).click()
  await expect(page.getByText('1 entry added.')).toBeVisible()
  await page.getByLabel('Search entries').fill('203.0.113')
  await expect(page.getByText('No matching entries.')).toBeVisible()

  await signOut(page)
  await signIn(page, 'worker', '/lists')
  await page.getByRole('button', { name: /New list|Create the first list/ }).first().click()
  await page.getByLabel('Entries, one per line').fill('everyone')
  await expect(page.getByText(/it also blocks senders on .*“Authorities” \(\d+\)/)).toBeVisible()
})

async function signOut(page: Page) {
  await page.getByLabel('Ines Varga, administrator').click()
  await page.getByRole('button', { name: 'Sign out' }).click()
  await expect(page).toHaveURL(/sign-in/)
  forgetSession('admin')
}
