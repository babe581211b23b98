// What was kept away, gone through by keys; a mistake fixed where it is found; held mail asked for; what a rule took returned.
import { expect, type Page } from '@playwright/test'
import { changed, holding } from '../support/clauses'
import { until } from '../support/wait'
import { accessible, choose, row, send, signIn, undoByKey, url } from './support/helpers'
import { sessionOf, test } from './support/test'
import { WORDS } from './support/words'

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const message = (page: Page) => page.getByRole('article', { name: 'Message', exact: true })
/** Goes on in Review until a message with such a subject is shown. */
async function goOnTo(page: Page, subject: RegExp) {
  const heading = message(page).getByRole('heading')
  for (let shown = (await heading.textContent())!; !subject.test(shown.trim()); shown = (await heading.textContent())!) {
    await page.keyboard.press('ArrowRight')
    await expect(heading).not.toHaveText(shown)
  }
  await expect(message(page)).toHaveAttribute('aria-busy', 'false')
}
/** Makes a rule that holds what has a phrase. */
const hold = async (id: string, phrase: string, over: object = {}) =>
  changed(await sessionOf('admin'), holding(id, phrase, 'general', { name: `Held ${id}`, mandatory: undefined, ...over }))
const remove = async (id: string) => changed(await sessionOf('admin'), { type: 'remove', kind: 'rule', id })
const copyOf = async (subject: string): Promise<Row> => (await (await sessionOf('admin'))(
  'GET',
  `/api/copies?words=${encodeURIComponent(subject)}`,
)).body.items[0]

test('a reviewer clears thirty by keys alone, and what is judged is always what is shown', async ({ page }) => {
  await hold('thirty', 'walnut gimbal')
  for (let n = 1; n <= 30; n++)
    await send({ from: `crew${n}@walnut.test`, subject: `gimbal ${String(n).padStart(2, '0')}x`, text: 'a walnut gimbal' })
  await signIn(page, 'reviewer')
  // Where a reviewer begins.
  await page.goto(url('/'))
  await expect(page).toHaveURL(/\/review/)
  await page.getByRole('button', { name: /Held thirty/ }).click()
  const heading = message(page).getByRole('heading')
  const wanted: string[] = []
  for (let n = 0; n < 30; n++) {
    await expect(message(page)).toHaveAttribute('aria-busy', 'false')
    await expect(message(page).getByText('a walnut gimbal')).toBeVisible()
    const shown = (await heading.textContent())!
    if (n % 2) wanted.push(shown)
    await page.keyboard.press(n % 2 ? 'w' : 'u')
    await expect(heading).not.toHaveText(shown)
  }
  await expect(page.getByRole('button', { name: /Held thirty/ })).toHaveCount(0)
  expect(new Set(wanted).size).toBe(15)
  const admin = await sessionOf('admin')
  const shown = async () =>
    ((await admin('GET', '/api/copies?words=gimbal&limit=100')).body.items as Row[]).filter(c => c.subject.startsWith('gimbal'))
  // The page goes on before the answer to the last press is there.
  await until('the last one has left the quarantine', async () => (await shown()).every(c => c.lane !== 'quarantine'))
  const marked = await shown()
  expect(marked).toHaveLength(30)
  for (const c of marked)
    expect([c.subject, c.lane, c.judgement]).toEqual(
      [c.subject, ...(wanted.includes(c.subject) ? ['inbox', 'wanted'] : ['bin', 'unwanted'])],
    )
  // The last one is undone by one key, and lies there again.
  await undoByKey(page)
  await expect(page.getByRole('button', { name: /Held thirty/ })).toBeVisible()
  await accessible(page)
  await remove('thirty')
})

test('a key does nothing to a message whose text is not there yet', async ({ page }) => {
  await hold('slow', 'amber quadrant')
  await send({ from: 'a@slow.test', subject: 'quadrant', text: 'an amber quadrant' })
  await signIn(page, 'reviewer')
  let come = () => {}
  const result = new Promise<void>(resolve => (come = resolve))
  await page.route('**/api/copies/*', async (route) => {
    await result
    await route.continue()
  })
  await page.goto(url('/review'))
  await page.getByRole('button', { name: /Held slow/ }).click()
  await expect(message(page).getByRole('heading', { name: 'quadrant' })).toBeVisible()
  await page.keyboard.press('w')
  come()
  await expect(message(page).getByText('an amber quadrant')).toBeVisible()
  expect((await copyOf('quadrant')).lane).toBe('quarantine')
  await remove('slow')
})

test('a wrongly stopped newsletter is mended by the first mend: it, its sibling, the next come, known unwanted not', async ({ page }) => {
  await hold('gazette', 'cork fender special')
  await send({ from: 'news@fender-gazette.test', subject: 'gazette one', text: 'a cork fender special', relay: true })
  await send({ from: 'news@fender-gazette.test', subject: 'gazette two', text: 'a cork fender special', relay: true })
  await send({ from: 'crook@fender-fraud.test', subject: 'gazette fraud', text: 'a cork fender special' })
  const admin = await sessionOf('admin')
  await admin('POST', '/api/copies/judgement', { ids: [(await copyOf('gazette fraud')).id], versions: 'any', value: 'unwanted' })
  await signIn(page, 'admin')
  await page.getByRole('link', { name: 'Review' }).click()
  await page.getByRole('button', { name: /Held gazette/ }).click()
  await expect(message(page).getByText('a cork fender special')).toBeVisible()
  await goOnTo(page, /^gazette (?:one|two)$/)
  // Two presses: M looks for fixes and stands on the first, Enter fixes.
  await page.keyboard.press('m')
  const first = page.getByRole('button', { name: 'Apply', exact: true }).first()
  await expect(first).toBeFocused()
  await expect(page.getByText('Add an exception for news@fender-gazette.test, if verified, to rule “Held gazette”')).toBeVisible()
  await expect(page.getByText('releases 2 messages, none of them marked unwanted').first()).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(page.getByText(/^Saved: .* Moved 2 messages to Inbox/)).toBeVisible()
  await send({ from: 'news@fender-gazette.test', subject: 'gazette three', text: 'a cork fender special', relay: true })
  await send({ from: 'crook@fender-fraud.test', subject: 'gazette fraud two', text: 'a cork fender special' })
  await page.goto(url('/mail?words=gazette'))
  for (const wanted of ['gazette one', 'gazette two', 'gazette three']) await expect(row(page, wanted)).toContainText('Inbox')
  await expect(row(page, 'gazette fraud two')).not.toContainText('Inbox')
  // One undo takes both back: the rule as it was, and the copies held.
  await page.keyboard.press('Control+z')
  await expect(page.getByText(/^Undone\. Policy version/)).toBeVisible()
  await page.goto(url('/mail?words=gazette'))
  await expect(row(page, 'gazette one')).not.toContainText('Inbox')
  await remove('gazette')
})

test('a worker asks under a must rule for the change that would bring it; accepted, it comes', async ({ page, other }) => {
  await hold('pilotbook', 'teak pilotbook', { mandatory: true })
  await send({ from: 'press@teak.test', subject: 'pilotbook proofs', text: 'the teak pilotbook', relay: true })
  await signIn(page, 'worker', '/review?lane=quarantine&quarantine=general&by=clause')
  await page.getByRole('button', { name: /Held pilotbook/ }).click()
  await expect(message(page).getByText('the teak pilotbook')).toBeVisible()
  await page.keyboard.press('m')
  await expect(page.getByRole('button', { name: 'Propose', exact: true }).first()).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByText('Proposed. The answer appears under Proposals.')).toBeVisible()
  await signIn(other, 'admin')
  await other.getByRole('link', { name: /Proposals/ }).click()
  const card = other.getByRole('article').filter({ hasText: 'pilotbook' }).first()
  await card.getByRole('button', { name: 'Accept' }).click()
  await until('the held message comes', async () => (await copyOf('pilotbook proofs')).lane === 'inbox')
  await remove('pilotbook')
})

test('held mail is asked for with a word; the reviewer sees it first, and a reasoned no comes back', async ({ page, other }) => {
  await hold('oilskin', 'oilskin voucher')
  await send({ from: 'shop@oilskin.test', subject: 'oilskin order', text: 'an oilskin voucher' })
  await signIn(page, 'worker', '/review?lane=quarantine&quarantine=general&by=clause')
  await page.getByRole('button', { name: /Held oilskin/ }).click()
  await page.getByLabel('Note to the reviewer').fill('I ordered these')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Release requested. The answer appears here.')).toBeVisible()
  await signIn(other, 'reviewer', '/review')
  await other.getByRole('button', { name: /release requested by the recipient/i }).click()
  await goOnTo(other, /^oilskin order$/)
  await expect(message(other).getByText('I ordered these')).toBeVisible()
  // Whoever asked reads why: the key asks for a reason first.
  await other.keyboard.press('u')
  await other.getByLabel('Reason', { exact: true }).fill('a voucher trick')
  await other.keyboard.press('Enter')
  await expect(other.getByText(/^Moved “oilskin order” to Bin/)).toBeVisible()
  await page.reload()
  const answers = page.getByRole('region', { name: 'My release requests' })
  await expect(answers.getByText('declined, Runa Keel: “a voucher trick”')).toBeVisible()
  await accessible(page)
  await remove('oilskin')
})

test('unwanted mail that came in is kept out by the first mend, once it is judged so, and what is wanted still comes', async ({ page }) => {
  await send({ from: 'offers@tinned-gulls.test', subject: 'gulls one', text: 'tinned gulls, cheap' })
  await send({ from: 'crew@gull-watch.test', subject: 'gulls seen', text: 'gulls at the pier' })
  await signIn(page, 'worker', '/mail?words=gulls')
  await expect(row(page, 'gulls one')).toBeVisible()
  await page.keyboard.press('m')
  await expect(page.getByText('Open a message first.')).toBeVisible()
  await row(page, 'gulls one').click()
  await expect(page.getByRole('tabpanel').getByText('tinned gulls, cheap')).toBeVisible()
  await page.keyboard.press('m')
  await expect(page.getByText('Mark it wanted (W) or unwanted (U) first')).toBeVisible()
  await page.keyboard.press('u')
  await expect(row(page, 'gulls one')).toContainText('unwanted')
  // The next message is read by now; the notice leads back to the mistake.
  await page.getByRole('link', { name: 'Suggest fixes' }).click()
  await expect(page.getByRole('article')).toHaveAccessibleName('gulls one')
  await expect(page.getByText('Block offers@tinned-gulls.test for you')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Apply', exact: true }).first()).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByText(/^Saved: .* Moved 1 message out of Inbox/)).toBeVisible()
  await send({ from: 'offers@tinned-gulls.test', subject: 'gulls two', text: 'tinned gulls, cheaper' })
  await page.goto(url('/mail?words=gulls'))
  await expect(row(page, 'gulls two')).toContainText('Spam')
  await expect(row(page, 'gulls one')).toContainText('Spam')
  await expect(row(page, 'gulls seen')).toContainText('Inbox')
})

test('a whole group is meant by one key and settled by another; a no keeps it held, and is read', async ({ page }) => {
  await hold('crates', 'slatted crate')
  for (const n of ['one', 'two', 'three'])
    await send({ from: `${n}@crates.test`, subject: `crate ${n}`, text: 'a slatted crate', relay: true })
  await signIn(page, 'reviewer', '/review')
  await page.getByRole('button', { name: /Held crates/ }).click()
  await expect(message(page).getByText('a slatted crate')).toBeVisible()
  await page.mouse.click(5, 5)
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: /All 3 selected/ })).toHaveAttribute('aria-pressed', 'true')
  // Whoever goes on means the one that is shown again.
  await page.keyboard.press('ArrowRight')
  await expect(page.getByRole('button', { name: /^(?:Select all|All) 3/ })).toHaveAttribute('aria-pressed', 'false')
  await expect(message(page)).toHaveAttribute('aria-busy', 'false')
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: /All 3 selected/ })).toBeVisible()
  await page.keyboard.press('w')
  await expect(page.getByText('Released 3 messages, marked as wanted.')).toBeVisible()
  await expect(page.getByRole('button', { name: /Held crates/ })).toHaveCount(0)
  for (const n of ['one', 'two', 'three']) expect((await copyOf(`crate ${n}`)).lane).toBe('inbox')
  await remove('crates')
})

test('what a rule took is given back: seen first, disabled, and what is marked messages unwanted stays', async ({ page }) => {
  await hold('taker', 'pewter sounding', { claims: [{ stop: { to: 'spam' } }] })
  await send({ from: 'a@pewter.test', subject: 'pewter one', text: 'a pewter sounding' })
  await send({ from: 'b@pewter.test', subject: 'pewter bad', text: 'a pewter sounding' })
  const { id } = await copyOf('pewter bad')
  await (await sessionOf('admin'))('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: 'unwanted' })
  await signIn(page, 'admin', '/rules/taker')
  await page.getByRole('link', { name: /^Return the mail/ }).click()
  await expect(page.getByText('It stopped 2 messages')).toBeVisible()
  await expect(page.getByText('1 message to Inbox')).toBeVisible()
  await expect(page.getByText('Not moved: 1 marked unwanted.')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Disable it and return 1 message' }).click()
  await expect(page.getByText(/Returned 1 message/)).toBeVisible()
  await page.goto(url('/mail?words=pewter'))
  await expect(row(page, 'pewter one')).toContainText('Inbox')
  await expect(row(page, 'pewter bad')).toContainText('Spam')
  await remove('taker')
})

test('the bin is emptied by sender, and only by its number; likely mistakes are told before', async ({ page }) => {
  await hold('binned', 'bronze cleat', { claims: [{ stop: { to: 'bin' } }] })
  for (const n of ['one', 'two']) await send({ from: 'x@bronze.test', subject: `bronze ${n}`, text: 'a bronze cleat' })
  await signIn(page, 'worker', '/review?lane=bin&by=sender')
  await page.getByRole('button', { name: /x@bronze\.test/ }).click()
  await page.getByRole('button', { name: 'Empty Bin…' }).click()
  await page.getByText(/only messages from/).click()
  await page.getByLabel('Number of messages').fill('5')
  await page.getByRole('button', { name: 'Delete permanently' }).click()
  await expect(page.getByRole('alert').filter({ hasText: 'There are now 2 messages' })).toBeVisible()
  await page.getByLabel('Number of messages').fill('2')
  await page.getByRole('button', { name: 'Delete permanently' }).click()
  await expect(page.getByText('Permanently deleted 2 messages from Bin.')).toBeVisible()
  // Nothing offers to undo what cannot be.
  await expect(page.getByRole('button', { name: WORDS.undo })).toHaveCount(0)
  await expect(page.getByRole('button', { name: /x@bronze\.test/ })).toHaveCount(0)
  await remove('binned')
})

test('what is settled of a quarantine stands in the house; deleted, its mail goes where it was said', async ({ page }) => {
  await signIn(page, 'admin', '/settings/quarantines')
  const part = page.getByRole('region', { name: 'Quarantines' })
  await part.getByLabel('Name of the new quarantine').fill('Odd cargo')
  await part.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByText('Quarantine “Odd cargo” added.')).toBeVisible()
  await part.getByRole('button', { name: 'Settings of quarantine “Odd cargo”' }).click()
  await part.getByLabel('Longest wait in quarantine Odd cargo, in days').fill('14')
  await part.getByText('can release themselves').click()
  await part.getByRole('button', { name: WORDS.save }).click()
  await expect(page.getByText('Settings of quarantine “Odd cargo” saved.')).toBeVisible()
  await page.reload()
  await expect(part.getByText('all reviewers, at most 14 days, recipients can release')).toBeVisible()
  await part.getByRole('button', { name: 'Settings of quarantine “Odd cargo”' }).click()
  await part.getByRole('button', { name: 'Delete quarantine…' }).click()
  await choose(page, 'Quarantine for its messages', 'General')
  await part.getByRole('button', { name: WORDS.delete }).click()
  await expect(page.getByText('Quarantine “Odd cargo” deleted. 0 messages moved to quarantine “General”.')).toBeVisible()
})
