// The sheet of a rule, what is beyond one's power, and what is pasted into lists; each through to where the next message ends.
import { expect } from '@playwright/test'
import { list, rule } from '../support/clauses'
import { addressOf } from '../support/office'
import { accessible, choose, row, saved, send, signIn, url } from './support/helpers'
import { sessionOf, test } from './support/test'
import { WORDS } from './support/words'

const stopping = (name: string, words: string, over: object = {}) => rule(name, { when: { phrases: [words] }, ...over })

test('a comma list of words with an excepted person, from a blank sheet to the next message: three presses', async ({ page }) => {
  await signIn(page, 'admin', '/rules')
  await page.getByRole('link', { name: 'New rule' }).click()
  // The first field has the keys already.
  await expect(page.getByLabel('Words and phrases')).toBeFocused()
  await page.keyboard.type('bollard sale, cleat sale')
  await page.getByRole('button', { name: '+ Add exception' }).click()
  await expect(page.getByLabel('Sender', { exact: true })).toBeFocused()
  await page.keyboard.type('ropes@bollard.test')
  await expect(
    page.getByText('When the subject or text has “bollard sale” or “cleat sale”, move to Spam, unless the sender is ropes@bollard.test (if verified).'),
  ).toBeVisible()
  await saved(page, 'Bollard sale')
  await send({ from: 'x@elsewhere.example', subject: 'a cleat sale', text: 'x' })
  await send({ from: 'ropes@bollard.test', subject: 'our bollard sale', text: 'x', relay: true })
  await page.goto(url('/mail?words=sale'))
  await expect(row(page, 'a cleat sale')).toContainText('Spam')
  await expect(row(page, 'our bollard sale')).toContainText('Inbox')
})

test('a starting sentence fills the sheet, and what each part catches stands beside it; a phrase is taken out there', async ({ page }) => {
  for (const n of ['one', 'two']) await send({ from: 'desk@fairway.test', subject: `fairway dues ${n}`, text: 'a fairway invoice' })
  await signIn(page, 'admin', '/mail?words=fairway')
  for (const n of ['one', 'two']) {
    await row(page, `fairway dues ${n}`).click()
    await page.keyboard.press('w')
    await expect(row(page, `fairway dues ${n}`)).toContainText('wanted')
  }
  await page.goto(url('/rules/new'))
  await page.getByRole('button', { name: 'Invoices from new senders' }).click()
  await expect(page.getByLabel('Words and phrases').first()).toHaveValue(/payment/)
  await expect(page.getByText('hold in quarantine “General”, unless the sender is on list “Regular callers” (if verified).')).toBeVisible()
  await page.getByLabel('Words and phrases').first().fill('fairway dues\nchandler’s riddle')
  const parts = page.getByRole('table')
  await expect(parts.getByRole('row', { name: /“fairway dues”/ })).toContainText('2 wanted')
  await expect(page.getByText('Only because of “fairway dues” the rule matches 2 wanted and 0 unwanted messages.')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: /^Remove “/ }).click()
  await expect(page.getByLabel('Words and phrases').first()).toHaveValue('chandler’s riddle')
})

test('who types quickly in a rule’s sheet, leaves and comes back, is served: cancelled requests lock nobody out', async ({ page }) => {
  await signIn(page, 'worker', '/rules/new')
  for (let n = 0; n < 4; n++) {
    const field = page.getByLabel('Words and phrases')
    await field.click()
    // Each letter asks for the impact anew, and cancels what was asked before.
    await page.keyboard.type('the anchor and the harbour and the pilot and the tide', { delay: 25 })
    await page.goto(url(n % 2 ? '/rules' : '/mail'))
    await page.goto(url('/rules/new'))
  }
  await page.getByLabel('Words and phrases').fill('the')
  await expect(page.getByRole('region', { name: 'Impact on existing mail' })).toContainText(/\d/)
  await page.goto(url('/mail'))
  await expect(page.getByRole('row').nth(1)).toBeVisible()
})

test('a worker’s proposal under a must: three presses from the held copy; accepted, both come', async ({ page, other }) => {
  const admin = await sessionOf('admin')
  await admin('POST', '/api/rules', stopping(
    'Tide tables',
    'tide table',
    { owner: 'department:accounts', mandatory: true, claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }] },
  ))
  await send({ from: 'almanac@tides.test', subject: 'tide table one', text: 'x', relay: true })
  await send({ from: 'stranger@tides.test', subject: 'tide table of a stranger', text: 'x', relay: true })
  await signIn(page, 'worker', '/mail?words=tide%20table')
  await row(page, 'tide table one').click()
  await page.keyboard.press('y')
  await page.getByRole('link', { name: 'Make an exception for mail like this' }).click()
  await expect(page.getByLabel('Sender', { exact: true })).toHaveValue('almanac@tides.test')
  await expect(page.getByText('Counted among your own mail.')).toBeVisible()
  await accessible(page)
  await page.getByLabel('Reason for the proposal').fill('we sail by it')
  await page.getByRole('button', { name: 'Propose', exact: true }).click()
  await expect(page.getByText(WORDS.proposed)).toBeVisible()

  await signIn(other, 'admin')
  await other.getByRole('link', { name: /^Proposals/ }).click()
  const card = other.getByRole('article').filter({ hasText: 'we sail by it' })
  await expect(card).toContainText('proposed by Oskar Brandt')
  await expect(card).toContainText('tide table one')
  await expect(card.getByText('1 message, 1 sender')).toBeVisible()
  await accessible(other)
  await card.getByRole('button', { name: 'Accept' }).click()
  // Also the held message, which a job brings.
  await expect(other.getByText(/Accepted the proposal of Oskar Brandt\. .* Moved 1 message/)).toBeVisible()

  await send({ from: 'almanac@tides.test', subject: 'tide table two', text: 'x', relay: true })
  await page.goto(url('/proposals'))
  await expect(page.getByRole('article').filter({ hasText: 'we sail by it' })).toContainText('accepted by Ines Varga')
  await page.goto(url('/mail?words=tide%20table'))
  for (const n of ['one', 'two']) await expect(row(page, `tide table ${n}`)).toContainText('Inbox')
  await expect(row(page, 'tide table of a stranger')).toContainText('General')
})

test('a proposal that went stale says against what; declined, whoever proposed it reads why', async ({ page, other }) => {
  const admin = await sessionOf('admin')
  const { body: made } = await admin('POST', '/api/rules', stopping('Capstans', 'capstan'))
  await signIn(page, 'worker', `/rules/${made.id}`)
  await page.getByLabel('Words and phrases').fill('capstan sale')
  await page.getByLabel('Reason for the proposal').fill('too many capstans')
  await page.getByRole('button', { name: 'Propose', exact: true }).click()
  await expect(page.getByText('Proposed.')).toBeVisible()
  const {
    ownerName: _o,
    sentence: _s,
    impact: _i,
    lastHit: _l,
    findings: _f,
    version,
    canChange: _m,
    stats: _r,
    eventId: _a,
    ...form
  } = (await admin('GET', `/api/rules/${made.id}`)).body
  expect((await admin('PUT', `/api/rules/${made.id}`, { ...form, description: 'seen to', version })).status).toBe(200)

  await signIn(other, 'admin', '/proposals')
  const card = other.getByRole('article').filter({ hasText: 'too many capstans' })
  await expect(card).toContainText('Outdated.')
  await expect(card).toContainText('Ines Varga')
  // Both go together: what was changed since is not lost.
  await expect(card).toContainText('These changes stay when you accept the proposal.')
  await expect(card.getByRole('button', { name: 'Accept', exact: true })).toBeVisible()
  await card.getByRole('button', { name: 'Decline…' }).click()
  await card.getByRole('textbox').fill('it was put right another way')
  await card.getByRole('button', { name: 'Decline', exact: true }).click()
  await expect(other.getByText('Declined. Oskar Brandt can read the reason.')).toBeVisible()

  await page.reload()
  await expect(page.getByRole('link', { name: /^Proposals/ })).toContainText(/\d/)
  await page.goto(url('/proposals'))
  await expect(page.getByRole('article').filter({ hasText: 'too many capstans' })).toContainText('Reason: it was put right another way')
})

test('four hundred pasted lines with faults: what becomes of each; what is wrong stays; the next message goes by it', async ({ page }) => {
  await signIn(page, 'admin')
  const admin = await sessionOf('admin')
  const assignment = { side: 'block', state: 'enabled', stop: { to: 'spam' } }
  const entries = 'old@hawker.test\n*.bulk-hawker.test'
  const { body: hawkers } = await admin('POST', '/api/lists', list('Hawkers', { enabled: true, assignment: assignment, entries }))
  await page.goto(url(`/lists/${hawkers.id}`))
  const lines = Array.from({ length: 390 }, (_, i) => `h${i}@hawker.test`)
  lines.splice(200, 0, 'old@hawker.test', 'desk@x.bulk-hawker.test', 'h1@hawker.test', 'no address at all', 'neither is this')
  lines.push('last@@', 'h389@hawker.test', '# a remark', '', 'new@hawker.test')
  await page.getByLabel('Addresses or domains, one per line').fill(lines.join('\n'))
  const report = page.getByRole('group', { name: 'Lines shown' })
  await expect(report).toContainText('391 new')
  await expect(report).toContainText('1 already on the list')
  await expect(report).toContainText('2 duplicate in your text')
  await expect(report).toContainText('1 included in another entry')
  await expect(report).toContainText('3 not understood')
  await report.getByRole('button', { name: 'included in another entry' }).click()
  await expect(page.getByText('@bulk-hawker.test and subdomains on this list already includes it')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Add to list' }).click()
  await expect(page.getByText('List “Hawkers”: 2 entries, now 394.')).toBeVisible()
  await expect(page.getByLabel('Addresses or domains, one per line')).toHaveValue('no address at all\nneither is this\nlast@@')
  await send({ from: 'h300@hawker.test', subject: 'hawked wares', text: 'x' })
  await page.goto(url('/mail?words=hawked'))
  await expect(row(page, 'hawked wares')).toContainText('Spam')

  await page.goto(url('/lists'))
  await page.getByLabel('Search all lists').fill('desk@y.bulk-hawker.test')
  await expect(page.getByRole('region', { name: 'Entries found' })).toContainText('Hawkers')
  await expect(page.getByRole('region', { name: 'Entries found' })).toContainText('also matches')
})

test('a watching rule is let act after its record was seen: from then on it does what it said', async ({ page }) => {
  const admin = await sessionOf('admin')
  const { body: made } = await admin('POST', '/api/rules', stopping('Quadrants', 'quadrant offer', { state: 'monitor' }))
  for (const n of ['one', 'two']) await send({ from: 'x@quadrant.test', subject: `quadrant offer ${n}`, text: 'x' })
  await signIn(page, 'admin', `/rules/${made.id}`)
  const would = page.getByRole('list', { name: 'Moves it would have made' })
  await expect(would).toContainText('Inbox')
  await expect(would).toContainText('Spam')
  await expect(would).toContainText('2')
  await page.getByRole('button', { name: 'Enable' }).click()
  await expect(page.getByText(/“Quadrants” saved\. Policy version \d+ is active/)).toBeVisible()
  await send({ from: 'x@quadrant.test', subject: 'quadrant offer three', text: 'x' })
  await page.goto(url('/mail?words=quadrant'))
  await expect(row(page, 'quadrant offer three')).toContainText('Spam')
  await expect(row(page, 'quadrant offer one')).toContainText('Inbox')
})

test('a message is tried under a sheet that is not saved, beside what is in force, and really sent; the sheet stays', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await page.getByLabel('Words and phrases').fill('windlass')
  await page.getByRole('button', { name: 'Test a message' }).click()
  await page.getByRole('combobox', { name: 'To', exact: true }).fill(addressOf('worker'))
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: 'From' }).fill('a@windlass.test')
  await page.getByRole('textbox', { name: 'Subject', exact: true }).fill('a windlass')
  await page.getByRole('button', { name: 'Run test' }).click()
  const sides = page.getByRole('radiogroup', { name: 'Policy used' })
  await expect(sides).toContainText('Inbox')
  await expect(sides).toContainText('Spam')
  await expect(page.getByText('only here')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Send real test message' }).click()
  await expect(page.getByText(/The message was accepted after \d+\.\d\d s/)).toBeVisible()
  await expect(page.getByLabel('Words and phrases')).toHaveValue('windlass')
})

test('a finding is put right in one press, after its impact', async ({ page }) => {
  const admin = await sessionOf('admin')
  const { body: made } = await admin('POST', '/api/rules', stopping('Tillers', 'tiller', { when: { phrases: ['tiller', 'oak tiller'] } }))
  await signIn(page, 'admin')
  await expect(async () => {
    await page.goto(url(`/rules/${made.id}`))
    await expect(page.getByText('Phrase inside another')).toBeVisible({ timeout: 10_000 })
  }).toPass()
  await page.getByRole('button', { name: 'Fix…' }).click()
  await page.getByRole('button', { name: 'Apply' }).click()
  await expect(page.getByText(/Fixed\. Policy version/)).toBeVisible()
  await expect(page.getByLabel('Words and phrases')).toHaveValue('tiller')
})

test('a rule is copied to oneself: what is otherwise stands on the sheet, and it can be saved', async ({ page }) => {
  const admin = await sessionOf('admin')
  const { body: made } = await admin(
    'POST',
    '/api/rules',
    stopping('Barges', 'barge hire', { owner: 'department:accounts', mandatory: true }),
  )
  await signIn(page, 'admin', `/rules/${made.id}`)
  await page.getByRole('link', { name: 'Duplicate' }).click()
  // The sheet of the rule itself is left, with its select.
  await page.waitForURL(/\/rules\/new/)
  await choose(page, 'Owner', 'me')
  const otherwise = page.getByRole('list', { name: 'What is different for the new owner' })
  await expect(otherwise).toContainText('It now applies to one user’s mail only.')
  await expect(otherwise).toContainText('It is no longer mandatory: users’ own lists and rules can override it.')
  await page.getByText('enabled', { exact: true }).click()
  await saved(page, 'Barges \\(copy\\)')
  await page.goto(url('/rules'))
  await page.getByLabel('Search rules').fill('barge hire')
  await expect(page.getByRole('status').filter({ hasText: /2 of \d+/ })).toBeVisible()
})

test('a sketch for the whole organisation is a worker’s to propose, with the message that it is from', async ({ page }) => {
  await send({ from: 'desk@flotsam.test', subject: 'flotsam for sale', text: 'x' })
  await signIn(page, 'worker', '/mail?words=flotsam')
  await row(page, 'flotsam for sale').click()
  await page.keyboard.press('b')
  await choose(page, 'Owner', 'whole organisation (as a proposal)')
  await expect(page.getByText('Propose the change to an administrator, with these messages.')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Propose' }).click()
  await expect(page.getByText(WORDS.proposed)).toBeVisible()
  await expect(row(page, 'flotsam for sale')).toContainText('Inbox')
  await page.goto(url('/proposals'))
  const card = page.getByRole('article').filter({ hasText: 'flotsam' })
  await expect(card).toContainText('waiting for an answer')
  await card.getByRole('button', { name: 'Withdraw' }).click()
  await expect(card).toHaveCount(0)
})
