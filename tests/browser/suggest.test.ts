// From the mail in front of somebody to a change that was seen before it is active; each through to where the next message ends.
import { expect, type Page } from '@playwright/test'
import { blocking, changed, putRule, rule } from '../support/clauses'
import { undo } from '../support/http'
import { accessible, choose, countShown, row, save, send, signIn, undoByKey, url } from './support/helpers'
import { sessionOf, test } from './support/test'
import { WORDS } from './support/words'

const reader = (page: Page) => page.getByRole('article')
const suggestion = (page: Page) => page.getByRole('region', { name: /^(Block|Allow)/ })

async function openFirst(page: Page, words: string, subject: string) {
  await page.goto(url(`/mail?words=${words}`))
  await row(page, subject).click()
  await expect(reader(page)).toHaveAccessibleName(subject)
}

test('the sender of a message is blocked in two presses: siblings go, the next one too; after a reload one press brings all back', async ({
  page,
}) => {
  await signIn(page, 'worker')
  const from = 'offers@tideline.test'
  for (const n of ['one', 'two', 'three']) await send({ from, subject: `tideline ${n}`, text: 'anchors' })
  await openFirst(page, 'tideline', 'tideline two')

  await page.keyboard.press('b')
  await page.keyboard.press('Enter')
  await expect(page.getByText(WORDS.moved(3))).toBeVisible()
  await expect(reader(page)).toHaveAccessibleName('tideline one')
  for (const n of ['one', 'two', 'three']) await expect(row(page, `tideline ${n}`)).toContainText('Spam')
  await send({ from, subject: 'tideline four', text: 'anchors' })
  await page.reload()
  await expect(row(page, 'tideline four')).toContainText('Spam')
  await expect(row(page, 'tideline four')).toContainText('Blocked')

  await page.keyboard.press('Control+z')
  await expect(page.getByText(/^Undone\. .*3 messages are as before/)).toBeVisible()
  for (const n of ['one', 'two', 'three']) await expect(row(page, `tideline ${n}`)).toContainText('Inbox')
  await send({ from, subject: 'tideline five', text: 'anchors' })
  await page.reload()
  await expect(row(page, 'tideline five')).toContainText('Inbox')
})

test('what moved is a link away, and another lane is chosen in the panel', async ({ page }) => {
  await signIn(page, 'worker')
  const from = 'desk@lantern-sale.test'
  for (const n of ['one', 'two']) await send({ from, subject: `lanternsale ${n}`, text: 'x' })
  await openFirst(page, 'lanternsale', 'lanternsale one')
  await page.getByRole('button', { name: 'Block sender… B' }).click()
  await expect(suggestion(page)).toContainText('desk@lantern-sale.test')
  await accessible(page)
  await choose(page, 'Action', 'move to Bin')
  await expect(suggestion(page)).toHaveAccessibleName('Block mail from desk@lantern-sale.test')
  await page.getByRole('button', { name: `${WORDS.save} Enter` }).click()
  await page.getByRole('link', { name: 'Show moved messages' }).click()
  await expect(page).toHaveURL(/eventId=\d+/)
  await countShown(page, 2)
  for (const n of ['one', 'two']) await expect(row(page, `lanternsale ${n}`)).toContainText('Bin')
  await undoByKey(page)
})

test('a stopped message comes back for good in two presses, with its earlier siblings; under another’s must it says whose', async ({
  page,
}) => {
  await signIn(page, 'worker')
  const from = 'club@clubletters.test'
  await changed(await sessionOf('admin'), blocking(from))
  for (const n of ['one', 'two']) await send({ from, subject: `clubletter ${n}`, text: 'of the berth', relay: true })
  await openFirst(page, 'clubletter', 'clubletter two')
  await expect(row(page, 'clubletter two')).toContainText('Spam')
  await page.keyboard.press('b')
  await expect(suggestion(page)).toHaveAccessibleName(/^Allow mail/)
  await page.keyboard.press('Enter')
  await expect(page.getByText(/Moved \d+ messages\./)).toBeVisible()
  for (const n of ['one', 'two']) await expect(row(page, `clubletter ${n}`)).toContainText('Inbox')
  await send({ from, subject: 'clubletter three', text: 'of the berth', relay: true })
  await page.reload()
  await expect(row(page, 'clubletter three')).toContainText('Inbox')
  await undoByKey(page)

  const admin = await sessionOf('admin')
  const when = { sender: { kind: 'address', value: from } }
  const made = await changed(admin, putRule('No berth clubs', { mandatory: true, when }))
  await send({ from, subject: 'clubletter four', text: 'of the berth', relay: true })
  await openFirst(page, 'clubletter', 'clubletter four')
  await page.keyboard.press('b')
  await expect(suggestion(page)).toContainText('This message would not be moved: Moved to Spam because rule “No berth clubs”')
  await expect(suggestion(page)).toContainText('It takes precedence over your change.')
  await page.keyboard.press('Escape')
  await undo(admin, made.eventId)
})

test('a rule for “the” shows what it would swallow, marks the phrase, and is let watch instead', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await page.getByLabel('Words and phrases').fill('the')
  await expect(page.getByText('Warning: affects many messages. It would stop')).toBeVisible()
  await expect(page.getByText('“the” affects many messages.')).toBeVisible()
  await accessible(page)
  await page.getByLabel('Name', { exact: true }).fill('Everything with the')
  await save(page)
  const asked = page.getByRole('alertdialog')
  await expect(asked).toContainText('marked wanted')
  // The messages stand beside the question, once.
  const beside = page.getByRole('region', { name: 'Impact on existing mail' })
  await expect(asked.getByRole('button', { name: /wanted$/ })).toHaveCount(0)
  await beside.getByRole('button', { name: /wanted$/ }).first().click()
  await expect(beside.getByRole('group', { name: 'Opened message' })).toContainText(/to .+ · /)
  await accessible(page)
  await asked.getByRole('button', { name: 'Monitor only first' }).click()
  await expect(page.getByText(/“Everything with the” saved \(monitor only\)\. Policy version \d+ is active/)).toBeVisible()
  await send({ from: 'somebody@elsewhere.example', subject: 'the thetest', text: 'the text' })
  await page.goto(url('/mail?words=thetest'))
  await expect(row(page, 'the thetest')).toContainText('Inbox')
  await undoByKey(page)
})

test('what is searched for becomes a standing rule', async ({ page }) => {
  await signIn(page, 'worker')
  for (const n of ['a', 'b']) await send({ from: `${n}@seller-${n}.test`, subject: `Sextant handover ${n}`, text: 'while they last' })
  await page.goto(url('/mail?words=sextant'))
  await countShown(page, 2)
  await page.getByRole('button', { name: 'New rule from all shown…' }).click()
  await expect(suggestion(page)).toContainText('From the 2 messages shown')
  await suggestion(page).getByRole('radio', { name: /^any sender/ }).check()
  await page.getByLabel('Words', { exact: true }).fill('sextant handover')
  await expect(suggestion(page)).toHaveAccessibleName('Block mail containing “sextant handover”')
  await expect(suggestion(page).getByText(/^2 messages, 2 senders/)).toBeVisible()
  await page.getByRole('button', { name: `${WORDS.save} Enter` }).click()
  await expect(page.getByText(WORDS.moved(2))).toBeVisible()
  await send({ from: 'c@seller-c.test', subject: 'sextant HANDOVER again', text: 'x' })
  await page.reload()
  await expect(row(page, 'sextant HANDOVER again')).toContainText('Spam')
  await undoByKey(page)
})

test('a whole domain is blocked in two presses, and a new list shows what it would catch before it is in force', async ({ page }) => {
  await signIn(page, 'worker')
  await send({ from: 'one@capstan-deals.test', subject: 'capstandeal one', text: 'x' })
  await send({ from: 'two@capstan-deals.test', subject: 'capstandeal two', text: 'x' })
  await openFirst(page, 'capstandeal', 'capstandeal one')
  await page.keyboard.press('b')
  await expect(suggestion(page)).toContainText('@capstan-deals.test')
  await page.keyboard.press('d')
  await expect(page.getByText(WORDS.moved(2))).toBeVisible()
  await send({ from: 'three@capstan-deals.test', subject: 'capstandeal three', text: 'x' })
  await page.reload()
  await expect(row(page, 'capstandeal three')).toContainText('Spam')
  await undoByKey(page)

  await page.goto(url('/lists'))
  await page.getByRole('button', { name: /New list|Create the first list/ }).first().click()
  await page.getByLabel('Name', { exact: true }).fill('Capstans')
  await page.getByLabel('Entries, one per line').fill('@capstan-deals.test')
  await expect(page.getByText(/^3 messages, 3 senders/)).toBeVisible()
  // The third lies in spam already.
  await page.getByText('2 existing messages').click()
  await accessible(page)
  await save(page)
  await expect(page.getByText(WORDS.moved(2))).toBeVisible()
  await expect(page).toHaveURL(/\/lists\/[0-9a-f]{32}/)
  await undoByKey(page)
})

test('more opens the rule sheet filled in, and leaving it asks', async ({ page }) => {
  await signIn(page, 'worker')
  await send({ from: 'desk@barometer.test', subject: 'barometer prices', text: 'x' })
  await openFirst(page, 'barometer', 'barometer prices')
  await page.keyboard.press('b')
  await page.getByRole('button', { name: 'More options…' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('desk@barometer.test')
  await expect(page.getByText('When the sender is desk@barometer.test, move to Spam.')).toBeVisible()
  await page.getByRole('link', { name: 'Lists' }).click()
  await expect(page.getByText(WORDS.notSaved)).toBeVisible()
})

test('of two administrators at once the later sees both, and loses nothing', async ({ page, other }) => {
  const admin = await sessionOf('admin')
  const offers = rule('Cordage offers', { state: 'monitor', when: { phrases: ['cordage offer'] } })
  const { body: made } = await admin('POST', '/api/rules', offers)
  await signIn(page, 'admin', `/rules/${made.id}`)
  await signIn(other, 'admin', `/rules/${made.id}`)
  await other.getByLabel('Words and phrases').fill('cordage bargain')
  await page.getByLabel('Words and phrases').fill('cordage sale')
  await save(other)
  await expect(other).toHaveURL(/\/rules$/)
  await save(page)
  const asked = page.getByRole('alertdialog')
  await expect(asked).toContainText('Nothing is lost, and nothing is saved yet.')
  await expect(asked.getByText(/“cordage sale”/)).toBeVisible()
  await expect(asked.getByText(/“cordage bargain”.* — Ines Varga/)).toBeVisible()
  await accessible(page)
  await asked.getByRole('button', { name: 'Overwrite with mine' }).click()
  await expect(page).toHaveURL(/\/rules$/)
  expect((await admin('GET', `/api/rules/${made.id}`)).body.when).toEqual({ phrases: ['cordage sale'] })
})

test('erasing for everybody wants the number that was seen', async ({ page }) => {
  await signIn(page, 'admin')
  await send({ from: 'spool@spool.test', subject: 'erasable spool', text: 'x' })
  await page.goto(url('/rules/new'))
  await page.getByLabel('Words and phrases').fill('erasable spool')
  await choose(page, 'Action', 'delete permanently')
  await page.getByText('I confirm that messages are deleted permanently').click()
  await page.getByLabel('Name', { exact: true }).fill('Spools')
  await save(page)
  const asked = page.getByRole('alertdialog')
  await expect(asked).toContainText('it would have deleted 1 permanently')
  const go = asked.getByRole('button', { name: 'Save and delete such mail permanently' })
  await expect(go).toBeDisabled()
  await asked.getByLabel('Number of messages that would be deleted').fill('1')
  await go.click()
  await expect(page.getByText(WORDS.saved('Spools'))).toBeVisible()
  await undoByKey(page)
})

test('in Reasons each step says where the message would be without it', async ({ page }) => {
  await signIn(page, 'worker')
  await send({ from: 'desk@oat-outlook.test', subject: 'ladder of oats', text: 'x' })
  await openFirst(page, 'ladder', 'ladder of oats')
  await page.keyboard.press('y')
  await expect(page.getByText('Without this list: Inbox')).toBeVisible()
})
