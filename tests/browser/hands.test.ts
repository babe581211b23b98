// Hands touch only what they see: what is meant is what is shown, under filters, for whoever works here.
import { expect, type Page } from '@playwright/test'
import { accessible, choose, countShown, row, saved, send, signIn, url } from './support/helpers'
import { forgetSession, sessionOf, test } from './support/test'
import { WORDS } from './support/words'

const reader = (page: Page) => page.getByRole('article')
/** The row that keys act on. */
const current = (page: Page) => page.getByRole('row').and(page.locator('[aria-current=true]'))
/** How many copies are said to be shown. */
const shown = (page: Page) => page.getByRole('status', { name: 'How many are shown' })

test('at page load nothing is meant; under a filter three presses judge the three that were read, one after the other', async ({
  page,
}) => {
  await signIn(page, 'worker')
  for (const n of ['one', 'two', 'three', 'four', 'five'])
    await send({ from: 'a@elsewhere.example', subject: `meantby ${n}`, text: 'x' })
  await page.goto(url('/mail?words=meantby&judgement=unmarked'))
  await countShown(page, 5)
  for (const key of ['u', 'w', '3']) await page.keyboard.press(key)
  await expect(page.getByText('Nothing is meant yet')).toBeVisible()
  await countShown(page, 5)

  await page.keyboard.press('Enter')
  await expect(current(page)).toContainText('meantby five')
  await expect(reader(page)).toHaveCount(0)
  await page.keyboard.press('Enter')
  for (const n of ['five', 'four', 'three']) {
    await expect(reader(page)).toHaveAccessibleName(`meantby ${n}`)
    await expect(current(page)).toContainText(`meantby ${n}`)
    await page.keyboard.press('u')
    await expect(page.getByText(`Judged “meantby ${n}” unwanted.`)).toBeVisible()
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
  await expect(page.getByText('That was the last one here.')).toBeVisible()
})

test('a button that says a state looks pressed only if it is so; what is chosen is shown instead of what was read', async ({
  page,
}) => {
  await signIn(page, 'worker')
  for (const n of ['one', 'two', 'three']) await send({ from: 'a@elsewhere.example', subject: `pressed ${n}`, text: 'x' })
  await page.goto(url('/mail?words=pressed'))
  await countShown(page, 3)
  await row(page, 'pressed three').click()
  const wanted = page.getByRole('button', { name: 'Wanted W', exact: true })
  await expect(wanted).toHaveAttribute('aria-pressed', 'false')
  await expect(wanted).not.toHaveClass(/first/)
  await page.keyboard.press('Shift+ArrowDown')
  await page.keyboard.press('Shift+ArrowDown')
  await expect(page.getByRole('heading', { name: '3 chosen' })).toBeVisible()
  await expect(reader(page)).toHaveCount(0)
  await accessible(page)
  await page.keyboard.press('Escape')
  await row(page, 'pressed three').click({ modifiers: ['Control'] })
  await row(page, 'pressed one').click({ modifiers: ['Shift'] })
  await expect(page.getByRole('heading', { name: '3 chosen' })).toBeVisible()
  await row(page, 'pressed two').click()
  await expect(reader(page)).toHaveAccessibleName('pressed two')
  await page.keyboard.press('5')
  await expect(row(page, 'pressed two')).toContainText('bin')
  await expect(page.getByRole('row').filter({ hasText: 'bin' })).toHaveCount(1)
})

test('hundreds of messages are chosen by one key, moved, and taken back after a reload', async ({ page }) => {
  await signIn(page, 'admin', '/mail?lane=inbox')
  await expect(shown(page)).toHaveText(/^[\d,]+ copies$/)
  const inbox = await shown(page).textContent()
  await page.goto(url('/mail'))
  await expect(shown(page)).toHaveText(/^[\d,]+ copies$/)
  const all = Number((await shown(page).textContent())!.replace(/\D/g, ''))
  expect(all).toBeGreaterThan(300)
  await page.getByRole('row').nth(1).click()
  await page.keyboard.press('Control+a')
  await expect(page.getByRole('heading', { name: `${all.toLocaleString('en')} chosen` })).toBeVisible()
  await accessible(page)
  await page.keyboard.press('5')
  await expect(page.getByText(/^Sent .* to the bin\./)).toBeVisible({ timeout: 120_000 })
  await page.goto(url('/mail?lane=inbox'))
  await expect(page.getByRole('heading', { name: 'Nothing matches' })).toBeVisible()

  await page.reload()
  await page.getByLabel('Ines Varga, administrator').click()
  await expect(page.getByText(/sent \d+ messages to the bin/).first()).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'take back' }).first().click()
  await expect(page.getByText(/Taken back: [\d,]+ messages are as before/)).toBeVisible({ timeout: 60_000 })
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
  await expect(page.getByRole('columnheader', { name: 'Reader' })).toBeVisible()
  await expect(row(page, 'dayheld two')).toContainText('Oskar Brandt')
  await row(page, 'dayheld two').click()
  await page.getByRole('tab', { name: 'Reasons' }).click()
  await expect(reader(page)).toContainText('Held in General because rule Fee demands')
  await page.keyboard.press('1')
  await expect(page.getByText('Sent “dayheld two” to the inbox.')).toBeVisible()
  await expect(page.getByText('There is no message')).toHaveCount(0)
  await expect(reader(page)).toHaveAccessibleName('dayheld one')
  await countShown(page, 1)
  await page.getByRole('button', { name: WORDS.undo }).click()
  await expect(page.getByText(WORDS.undoneOne)).toBeVisible()
  await countShown(page, 2)
  await page.keyboard.press('w')
  await expect(page.getByText('Judged “dayheld one” wanted.')).toBeVisible()

  await page.getByRole('link', { name: 'Record' }).click()
  await expect(page.getByText('marked 1 message as wanted').first()).toBeVisible()
  await expect(page.getByText('opened somebody else’s message')).toHaveCount(2)
  await accessible(page)
  await page.getByRole('button', { name: 'Take back' }).first().click()
  await expect(page.getByText(WORDS.undoneOne)).toBeVisible()
  await expect(page.getByRole('listitem').filter({ hasText: 'marked 1 message as wanted' }).nth(1)).toContainText('taken back')
})

test('a worker is offered no key that would be refused, and is told why', async ({ page }) => {
  await signIn(page, 'worker')
  await send({ from: 'x@elsewhere.example', subject: 'keptaway', text: 'the release fee is due' })
  await page.goto(url('/mail?words=keptaway'))
  await row(page, 'keptaway').click()
  await expect(page.getByText(WORDS.releaser).first()).toBeVisible()
  await expect(page.getByText('send to', { exact: true })).toHaveCount(0)
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
  await page.getByRole('button', { name: 'Stay here' }).click()
  await expect(page.getByLabel('Words and phrases')).toHaveValue('foot of the door')
  await page.getByRole('link', { name: 'Lists' }).click()
  await page.getByRole('button', { name: 'Leave it unsaved' }).click()
  await expect(page).toHaveURL(/\/lists$/)
  await page.getByRole('link', { name: 'Rules' }).click()
  await expect(page).toHaveURL(/\/rules$/)
})

test('“I sent it and you never got it” has an answer to pass on; a link opens just the message that it names', async ({
  page,
}) => {
  await signIn(page, 'worker')
  await send({ from: 'claims@passed-on.test', subject: 'passed on', text: 'x' })
  await page.getByRole('link', { name: 'See what was tried at the door' }).click()
  await page.getByLabel('from').fill('claims@passed-on.test')
  await page.getByRole('button', { name: 'Look' }).click()
  await expect(page.getByText('One try, between')).toBeVisible()
  await expect(page.getByRole('listitem').filter({ hasText: 'passed on' })).toContainText('accepted, and lies in the inbox now.')
  await accessible(page)
  await page.getByLabel('from').fill('never@passed-on.test')
  await page.getByRole('button', { name: 'Look' }).click()
  await expect(page.getByRole('heading', { name: 'It never came here' })).toBeVisible()
  await accessible(page)

  await page.goto(url('/rules/fee-demands'))
  const line = page.getByRole('complementary').getByRole('listitem').getByRole('link').first()
  const id = /open=(\d+)/.exec((await line.getAttribute('href'))!)![1]
  const { subject } = (await (await sessionOf('worker'))('GET', `/api/copies/${id}`)).body
  await line.click()
  await expect(reader(page)).toHaveAccessibleName(subject)
})

test('several senders in one condition are each taken for what they look like, and are there again', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await choose(page, 'Kind of condition', 'the sender is')
  await page.getByLabel('Sender', { exact: true }).fill('a@tarpaulin.test\n@oakum.test')
  await expect(page.getByText('When the sender is a@tarpaulin.test or @oakum.test, send to spam.')).toBeVisible()
  await saved(page, 'From a@tarpaulin.test and 1 more')
  for (const from of ['a@tarpaulin.test', 'b@tarpaulin.test', 'b@oakum.test'])
    await send({ from, subject: `severalfrom ${from}`, text: 'x' })
  await page.goto(url('/mail?words=severalfrom'))
  await expect(row(page, 'severalfrom a@tarpaulin')).toContainText('spam')
  await expect(row(page, 'severalfrom b@tarpaulin')).toContainText('inbox')
  await expect(row(page, 'severalfrom b@oakum')).toContainText('spam')
  await page.goto(url('/rules'))
  await page.getByRole('link', { name: 'From a@tarpaulin.test and 1 more', exact: true }).click()
  await expect(page.getByLabel('Sender', { exact: true })).toHaveValue('a@tarpaulin.test\n@oakum.test')
})

test('a network among pasted addresses asks first; a worker’s closed door says whom it shuts out', async ({ page }) => {
  await signIn(page, 'admin', '/lists/speculators')
  await page.getByLabel('Addresses or domains, one a line').fill('m@malt.test\n203.0.113.0/24')
  await page.getByRole('button', { name: 'Add to the list' }).click()
  await expect(page.getByText('203.0.113.0/24 is a network')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Leave it out' }).click()
  await expect(page.getByText('1 entry added.')).toBeVisible()
  await page.getByLabel('Search the entries').fill('203.0.113')
  await expect(page.getByText('No entry has these letters.')).toBeVisible()

  await signOut(page)
  await signIn(page, 'worker', '/lists')
  await page.getByRole('button', { name: /New list|Make the first list/ }).first().click()
  await page.getByLabel('Entries, one a line').fill('everyone')
  await expect(page.getByText(/it also shuts out whoever is on .*Authorities \(\d+\)/)).toBeVisible()
})

async function signOut(page: Page) {
  await page.getByLabel('Ines Varga, administrator').click()
  await page.getByRole('button', { name: 'Sign out everywhere' }).click()
  await expect(page).toHaveURL(/sign-in/)
  forgetSession('admin')
}
