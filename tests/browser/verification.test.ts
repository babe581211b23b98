// Senders are verified without any relay: what a user sees of it, and what an administrator does for it.
import { expect } from '@playwright/test'
import { EMPTY, install, SETUP_TOKEN } from '../support/installation'
import { OURS as HARBOUR } from '../support/office'
import { signed } from '../support/signed'
import { handOver, plainMessage, smtp } from '../support/smtp'
import { accessible, choose, save, signIn } from './support/helpers'
import { test } from './support/test'
import { WORDS } from './support/words'

const OURS = 'holt-ropes.example'
const CHANDLER = 'accounts@quayline.example'

test('an empty installation by screens alone, to an allow list that counts, and why', async ({ page }) => {
  const empty = await install(process.env.TEST_CLUSTER!, 'browser_verification', { contents: EMPTY, env: { SOBER_GATE_DNS: 'stand-in' } })
  try {
    const at = (path: string) => `${empty.url}${path}`
    await page.goto(at(`/first?token=${SETUP_TOKEN}`))
    await page.getByLabel('Name', { exact: true }).fill('Mira Holt')
    await page.getByLabel('Address').first().fill(`mira@${OURS}`)
    await page.getByLabel('Password').first().fill('quite long enough')
    await page.getByLabel('One per line').fill(OURS)
    await page.getByRole('button', { name: 'Set up' }).click()
    await expect(page.getByRole('heading', { name: 'Still missing' })).toBeVisible()
    // Nothing to set up: DNS answers.
    await expect(page.getByText('cannot be verified')).toHaveCount(0)
    await page.getByRole('navigation', { name: 'Settings' }).getByRole('link', { name: 'Sender verification' }).click()
    await expect(page.getByText('Senders can be verified.')).toBeVisible()

    const message = await signed(plainMessage({ from: CHANDLER, subject: 'Invoice 7001', text: 'the special offer' }))
    await page.getByText('Test with a message').click()
    await page.getByLabel('Source of a message').fill(message)
    await page.getByRole('button', { name: 'Test message' }).click()
    await expect(page.getByText('quayline.example signed it (DKIM), which matches the From address.')).toBeVisible()
    await expect(page.getByText('r1._domainkey.quayline.example')).toBeVisible()
    await page.getByText('Test a domain').click()
    await page.getByLabel('Domain', { exact: true }).fill(HARBOUR)
    await page.getByRole('button', { name: 'Test domain' }).click()
    await expect(page.getByText('mail that fails should be refused')).toBeVisible()
    await accessible(page)

    await page.getByRole('link', { name: 'Lists' }).click()
    await page.getByRole('button', { name: 'Create the first list' }).click()
    await page.getByLabel('Name', { exact: true }).fill('Chandlers')
    await choose(page, 'Assignment', 'Allow')
    await page.getByLabel('Entries, one per line').fill('quayline.example')
    await save(page)
    await expect(page.getByText('List “Chandlers” saved with 1 entry.')).toBeVisible()
    await page.getByRole('link', { name: 'Rules' }).click()
    await page.getByRole('link', { name: 'Create the first rule' }).click()
    await page.getByLabel('Words and phrases').fill('special offer')
    await save(page)
    await expect(page.getByText(/Rule “Special offer” saved/)).toBeVisible()

    await smtp(empty.smtpPort, handOver(CHANDLER, [`mira@${OURS}`], message))
    await smtp(empty.smtpPort, handOver(CHANDLER, [`mira@${OURS}`], message.replace('Invoice 7001', 'Invoice 7002')))
    await page.goto(at('/mail'))
    await expect(page.getByRole('row').filter({ hasText: 'Invoice 7001' })).toContainText('Inbox')
    await expect(page.getByRole('row').filter({ hasText: 'Invoice 7002' })).toContainText('Spam')
    await page.getByRole('row').filter({ hasText: 'Invoice 7001' }).click()
    await page.getByRole('tab', { name: 'Reasons' }).click()
    const reasons = page.getByRole('tabpanel')
    await expect(reasons).toContainText('quayline.example signed it (DKIM), which matches the From address.')
    await expect(reasons).toContainText('List “Chandlers”')
    await reasons.getByText('Details').click()
    await expect(reasons.getByRole('row').filter({ hasText: 'DKIM' })).toContainText('passed')
    await accessible(page)
    await page.getByRole('row').filter({ hasText: 'Invoice 7002' }).click()
    await expect(reasons).toContainText('the signed header fields were changed, or another key signed them')
  }
  finally {
    await empty.stop()
  }
})

test('the forged invoice of the demo is told as forged; a bulk sender is blocked by its signature', async ({ page }) => {
  await signIn(page, 'admin', '/mail?words=changed+bank+details')
  await page.getByRole('row').filter({ hasText: 'Harbour accounts' }).first().click()
  await page.getByRole('tab', { name: 'Reasons' }).click()
  await expect(page.getByRole('tabpanel')).toContainText('did not send it (DMARC failed)')

  await page.goto(page.url().replace(/\/mail.*/, '/mail?words=berth+shares'))
  await page.getByRole('row').filter({ hasText: 'berth-shares.test' }).or(page.getByRole('row').filter({ hasText: 'Berth Shares' })).first().click()
  await expect(page.getByRole('article')).toBeVisible()
  await page.keyboard.press('b')
  const panel = page.getByRole('radio', { name: /signed by out\.bulk-post\.test/ })
  await expect(panel).toBeVisible()
  await expect(page.getByText(/It signs for \d+ sender domains/)).toBeVisible()
})

test('a DMARC failure is treated as its domain asks, by a rule whose impact is seen first', async ({ page }) => {
  await signIn(page, 'admin', '/settings/verification')
  await expect(page.getByText('A stand-in for DNS')).toBeVisible()
  await page.getByRole('link', { name: 'See the impact and turn it on' }).click()
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('DMARC failure')
  await expect(page.getByText(/DMARC failed and its domain asks to quarantine or refuse it/).first()).toBeVisible()
  const impact = page.getByLabel('Impact on existing mail')
  await expect(impact).toContainText('marked wanted')
  await expect(impact).not.toContainText('Counting')
  await save(page)
  // What the forwarder broke is wanted: that is seen before it is held.
  await expect(page.getByText(/It would stop \d+ messages? marked wanted/).first()).toBeVisible()
  await page.getByRole('button', { name: 'Save anyway' }).click()
  await expect(page.getByText(WORDS.saved('DMARC failure'))).toBeVisible()
  await page.goto(page.url().replace(/\/rules.*/, '/settings/verification'))
  await expect(page.getByRole('link', { name: 'rule “DMARC failure”' })).toBeVisible()
})
