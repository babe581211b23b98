import { expect } from '@playwright/test'
import { addressOf } from '../support/office'
import { accessible, choose, countShown, save, saved, send, signIn, url } from './support/helpers'
import { test } from './support/test'
import { WORDS } from './support/words'

test('Mail: hands stay on the keyboard', async ({ page }) => {
  await signIn(page, 'worker')
  for (const subject of ['keys one', 'keys two', 'keys three'])
    await send({ from: 'a@elsewhere.example', subject, text: 'x' })
  await page.goto(url('/mail?words=keys'))
  await countShown(page, 3)
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('article')).toContainText('keys three')
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('article')).toContainText('keys two')
  await page.keyboard.press(' ')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press(' ')
  await expect(page.getByRole('heading', { name: '2 selected' })).toBeVisible()
  await page.keyboard.press('5')
  await expect(page.getByText('Moved 2 messages to Bin.')).toBeVisible()
  await expect(page.getByRole('row').filter({ hasText: 'Bin' })).toHaveCount(2)
  await page.keyboard.press('Home')
  await page.keyboard.press('y')
  await expect(page.getByRole('tab', { name: 'Reasons' })).toHaveAttribute('aria-selected', 'true')
  await page.keyboard.press('?')
  await expect(page.getByRole('heading', { name: 'Keys' })).toBeVisible()
  await page.goto(url('/me'))
  await page.getByText('Single letters and digits work as keys').click()
  await page.goto(url('/mail?words=keys'))
  await page.getByRole('row').nth(1).click()
  await expect(page.getByRole('article')).toContainText('keys three')
  await page.keyboard.press('3')
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('article')).toContainText('keys two')
  await expect(page.getByText('to Spam')).toHaveCount(0)
})

test('Mail: a long text beside its reasons can be read without a mouse', async ({ page }) => {
  await signIn(page, 'worker')
  const lines = Array.from({ length: 120 }, (_, i) => `line ${i} of a long letter`)
  await send({ from: 'a@elsewhere.example', subject: 'a long letter', text: lines.join('\n') })
  await page.goto(url('/mail?words=letter'))
  await countShown(page, 1)
  await page.getByText('a long letter').first().click()
  await page.getByRole('tab', { name: 'Reasons' }).click()
  const words = page.getByRole('group', { name: 'Text of the message' })
  await expect(words).toContainText('line 119')
  await accessible(page)
  await words.focus()
  await page.keyboard.press('End')
  await expect.poll(() => words.evaluate(e => e.scrollTop)).toBeGreaterThan(0)
})

test('Mail: what is odd about a message is said above its text, and files in an archive are named', async ({
  page,
}) => {
  await signIn(page, 'admin', '/mail?words=dues')
  await page.getByText('Changed account for berth dues').first().click()
  await expect(page.getByRole('article')).toContainText('several mailboxes in From')
  await page.goto(url('/mail?words=hald'))
  await page.getByText('Papers of MV Hald Bay').first().click()
  await expect(page.getByRole('article')).toContainText('contains papers/manifest.pdf.exe')
  await accessible(page)
})

test('Mail: as it was sent, a link says where it leads, and a name that is turned round is written out', async ({
  page,
}) => {
  const refused: string[] = []
  page.on('console', (message) => {
    if (message.text().includes('Content Security Policy')) refused.push(message.text())
  })
  await signIn(page, 'admin', '/mail?words=looked')
  await page.getByText('Your berth dues, to be looked at').first().click()
  await expect(page.getByRole('article')).toContainText('notice_⟨U+202E⟩fdp.exe')
  // Nothing runs in the frame, so axe looks before it is there.
  await accessible(page)
  await page.getByRole('button', { name: 'Show original HTML' }).click()
  const frame = page.getByTitle('Original HTML of the message').contentFrame()
  await expect(frame.getByText('(leads to pay.northquay-freight.test)')).toBeVisible()
  // The frame's own style acts: within its border a margin of 12 pixels, where browsers give 8.
  const shown = page.getByTitle('Original HTML of the message')
  const outside = (await shown.boundingBox())!
  const border = await shown.evaluate(e => e.clientLeft)
  const inside = (await frame.getByText('the paper is attached').boundingBox())!
  expect(Math.round(inside.x - outside.x - border)).toBe(12)
  expect(refused).toEqual([])
})

test('Mail: nothing found is a state with a next step', async ({ page }) => {
  await signIn(page, 'worker')
  await page.getByLabel('Search', { exact: true }).fill('xyzzy nothing')
  await expect(page.getByRole('heading', { name: 'No messages found' })).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Show all messages' }).click()
  await expect(page.getByRole('row').nth(1)).toBeVisible()
})

test('Lists: paste many; what is wrong stays in the field; take one out', async ({ page }) => {
  await signIn(page, 'admin', '/lists')
  await accessible(page)
  await page.getByRole('link', { name: 'Speculators', exact: true }).click()
  await page.getByLabel('Addresses or domains, one per line').fill('oats@oat-desk.test\nnot an address\n@rye.test')
  await page.getByRole('button', { name: 'Add to list' }).click()
  await expect(page.getByText('2 entries added; 1 line not added, left in the field to correct')).toBeVisible()
  await expect(page.getByText(/“Speculators”: \d+ entries, now \d+/)).toBeVisible()
  await expect(page.getByLabel('Addresses or domains, one per line')).toHaveValue('not an address')
  await page.getByLabel('Search entries').fill('oat-desk')
  await expect(page.getByText('1 shown')).toBeVisible()
  await page.getByLabel('Select oats@oat-desk.test').check()
  await page.getByRole('button', { name: 'Remove' }).click()
  await expect(page.getByText('1 entry removed')).toBeVisible()
  await accessible(page)
})

test('Lists: what is questionable is said beside it; a door is closed to everyone else, on trial first', async ({
  page,
}) => {
  await signIn(page, 'admin', '/lists')
  await page.getByRole('link', { name: /^1 finding in.*Speculators/ }).click()
  await expect(page.getByText('Entry covered by a wider one')).toBeVisible()
  await page.getByRole('button', { name: 'Select entry' }).click()
  await expect(page.getByRole('button', { name: 'Remove' })).toBeVisible()
  await page.goto(url('/lists/authorities'))
  await page.getByRole('link', { name: 'Block all other senders…' }).click()
  await expect(page.getByLabel('Entries, one per line')).toHaveValue('everyone')
  await choose(page, 'Action', 'refuse, with a reply')
  await page.getByLabel('Reply').fill('Only authorities write here')
  await accessible(page)
  await save(page)
  await expect(page.getByRole('heading', { name: 'All senders not on Authorities' })).toBeVisible()
  await expect(page.getByText(': refuse. (monitor only)')).toBeVisible()
  await page.getByRole('button', { name: 'Edit', exact: true }).click()
  await expect(page.getByLabel('Reply')).toHaveValue('Only authorities write here')
  await page.getByRole('button', { name: WORDS.cancel }).click()
  await page.getByRole('button', { name: '+ Add assignment' }).click()
  await choose(page, 'Owner', 'Accounts')
  await choose(page, 'Direction', 'internal mail, by sender')
  await choose(page, 'State', 'monitor only')
  await accessible(page)
  await save(page)
  await expect(page.getByText('Block internal mail, for Accounts: move to Spam. (monitor only)')).toBeVisible()
  await page.getByLabel('Select everyone').check()
  await page.getByRole('button', { name: 'Edit note and expiry' }).click()
  await page.getByLabel('Note', { exact: true }).first().fill('on trial until spring')
  await save(page)
  await expect(page.getByRole('cell', { name: 'on trial until spring' })).toBeVisible()
  await page.getByRole('button', { name: 'Edit list' }).click()
  await page.getByRole('button', { name: 'Delete list' }).click()
  await page.getByRole('button', { name: WORDS.delete }).click()
  await expect(page).toHaveURL(/\/lists$/)
})

test('Rules: a group of conditions, weights and a direction are made on the sheet, and are still there', async ({
  page,
}) => {
  await signIn(page, 'admin', '/rules/new')
  await page.getByLabel('Words and phrases').fill('lugger ×2\nketch')
  await page.getByRole('button', { name: '+ More options' }).click()
  await page.getByRole('button', { name: '+ Minimum score' }).click()
  await page.getByLabel('Minimum score').fill('2')
  await page.getByRole('button', { name: '+ Add group' }).first().click()
  await page.getByLabel('Words and phrases').last().fill('dory')
  await page.getByRole('button', { name: '+ Add condition' }).first().click()
  await choose(page, 'Kind of condition', 'important flag')
  await page.getByText('More options', { exact: true }).click()
  await choose(page, 'Direction', 'internal mail')
  await expect(
    page.getByText(
      'Internal mail: when the subject or text has “lugger” or “ketch”, with a score of 2 or more '
      + 'and (the subject or text has “dory” or its sender flagged it as important), move to Spam.',
    ),
  ).toBeVisible()
  await accessible(page)
  await save(page)
  await expect(page.getByText(WORDS.saved('Lugger'))).toBeVisible()
  await page.getByRole('link', { name: 'Lugger', exact: true }).click()
  await expect(page.getByLabel('Words and phrases').first()).toHaveValue('lugger ×2\nketch')
  await expect(page.getByLabel('Words and phrases').last()).toHaveValue('dory')
  await expect(page.getByText('internal mail', { exact: true }).first()).toBeVisible()
})

test('Rules: by the letters that a text is written in; saved by mistake, one press takes it back, and the next message goes on', async ({
  page,
}) => {
  const letters = 'Предложение о складе в порту, цены на зерно и уголь'
  const mail = (subject: string) =>
    send({ from: 'sklad@kuznechik.test', subject, text: `${letters}. ${letters}.`, utf8: true })
  await signIn(page, 'admin', '/rules/new')
  await choose(page, 'Kind of condition', 'is written in')
  await choose(page, 'Letters', 'mostly Cyrillic letters')
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('In Cyrillic letters')
  await saved(page, 'In Cyrillic letters')
  await mail('kuznechikone')
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Undone. Policy version')).toBeVisible()
  await expect(page.getByRole('link', { name: 'In Cyrillic letters' })).toHaveCount(0)
  await mail('kuznechiktwo')
  await page.goto(url('/mail?words=kuznechikone'))
  await expect(page.getByRole('row').filter({ hasText: 'kuznechikone' })).toContainText('Spam')
  await page.goto(url('/mail?words=kuznechiktwo'))
  await expect(page.getByRole('row').filter({ hasText: 'kuznechiktwo' })).toContainText('Inbox')
})

test('Mail: what a document says is marked where it stands; a release that another stop holds says so', async ({
  page,
}) => {
  await signIn(page, 'admin', '/mail?touchedBy=accounts-in-documents')
  await page.getByRole('row').nth(1).click()
  await expect(page.getByRole('region', { name: /^in invoice/ }).locator('mark').first()).toHaveText('new bank account')
  for (const [name, quarantine] of [
    ['Junks one', 'Security'],
    ['Junks two', 'General'],
  ] as const) {
    await page.goto(url('/rules/new'))
    await page.getByLabel('Words and phrases').fill('junk rig')
    await choose(page, 'Action', 'hold in quarantine…')
    await choose(page, 'Quarantine', quarantine)
    await page.getByLabel('Name', { exact: true }).fill(name)
    await saved(page, name)
  }
  await send({ from: 'x@elsewhere.example', subject: 'a junk rig', text: 'x' })
  await page.goto(url('/mail?words=junk'))
  // A key means what is shown: nothing yet until the message is there.
  const shown = page.getByRole('article').locator('mark').getByText('junk rig')
  await page.getByRole('row').nth(1).click()
  await expect(shown).toBeVisible()
  await page.keyboard.press('1')
  await expect(
    page.getByText(
      '1 message was not released: another list or rule also stops it. Held in quarantine “General” because rule “Junks two”',
    ),
  ).toBeVisible()
  await page.getByRole('row').nth(1).click()
  await expect(shown).toBeVisible()
  await page.keyboard.press('1')
  await expect(page.getByRole('row').nth(1)).toContainText('Inbox')
})

test('Rules: an empty field says what is wrong beside it; the order is changed from the keyboard', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await save(page)
  await expect(page.getByText('Enter at least one word or phrase')).toBeVisible()
  await page.goto(url('/rules'))
  await accessible(page)
  const ORDER = ['Fee demands', 'Changed bank details', 'New accounts in documents', 'Programs', 'Obfuscated fees']
  const names = async () => {
    const handles = await page.getByRole('button', { name: /: move/ }).all()
    const all = await Promise.all(handles.map(async h => (await h.getAttribute('aria-label'))!.replace(/: move.*/, '')))
    return all.filter(n => ORDER.includes(n))
  }
  await expect(page.getByRole('link', { name: 'Fee demands', exact: true })).toBeVisible()
  expect(await names()).toEqual(ORDER)
  await page.getByRole('button', { name: 'Fee demands: move' }).press('ArrowDown')
  await expect.poll(names).toEqual([ORDER[1], ORDER[0], ...ORDER.slice(2)])
})

test('Try: the ladder of a message that was only written', async ({ page }) => {
  await signIn(page, 'admin')
  await page.getByRole('link', { name: 'Test a message', exact: true }).click()
  await page.getByLabel('From', { exact: true }).fill('case@release-desk.test')
  await page.getByLabel('Subject', { exact: true }).fill('release fee')
  await page.getByRole('button', { name: 'Run test' }).click()
  await expect(
    page.getByText('Held in quarantine “General” because rule “Fee demands” found “release fee” in the subject.'),
  ).toBeVisible()
  await expect(page.locator('mark')).toHaveText('release fee')
  await accessible(page)
})

test('sign-in: wrong words are answered in a sentence, and nothing shows before', async ({ page }) => {
  await page.goto(url('/rules'))
  await expect(page).toHaveURL(/sign-in/)
  await accessible(page)
  await page.getByLabel('Address').fill(addressOf('worker'))
  await page.getByLabel('Password').fill('wrong')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('alert')).toContainText('Address or password is not correct')
})
