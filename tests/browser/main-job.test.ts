import { expect } from '@playwright/test'
import { addressOf, PASSWORD } from '../support/office'
import { accessible, choose, countShown, saved, send, signIn, url } from './support/helpers'
import { test } from './support/test'
import { WORDS } from './support/words'

test('an administrator makes a keyword rule with an exception, tries it by real mail, and mends a mistake', async ({
  page,
}) => {
  await page.goto(url('/sign-in?to=/mail'))
  await page.getByLabel('Address').fill(addressOf('admin'))
  await page.getByLabel('Password').fill(PASSWORD)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page).toHaveURL(/\/mail/)
  await page.getByRole('link', { name: 'Rules' }).click()
  await page.getByRole('link', { name: 'New rule' }).click()
  await page.getByLabel('Words and phrases').fill('lantern festival')
  await page.getByRole('button', { name: '+ Add exception' }).click()
  await page.getByLabel('Sender', { exact: true }).fill('lantern-guild.example')
  await expect(
    page.getByText(
      'When the subject or text has “lantern festival”, move to Spam, unless the sender is @lantern-guild.example (if verified).',
    ),
  ).toBeVisible()
  await accessible(page)
  await saved(page, 'Lantern festival')

  const text = 'Come to the Lantern\n  Festival on Friday.'
  await send({ from: 'stranger@elsewhere.example', subject: 'lamps stopped', text })
  await send({ from: 'desk@lantern-guild.example', subject: 'lamps verified', text, relay: true })
  await send({ from: 'desk@lantern-guild.example', subject: 'lamps unverified', text })
  await send({ from: 'stranger@elsewhere.example', subject: 'lamps plain', text: 'nothing of it' })

  await page.goto(url('/mail?words=lamps'))
  const row = (subject: string) => page.getByRole('row').filter({ hasText: subject })
  await expect(row('lamps stopped')).toContainText('Spam')
  await expect(row('lamps verified')).toContainText('Inbox')
  await expect(row('lamps verified')).toContainText('an exception applies')
  await expect(row('lamps unverified')).toContainText('Spam')
  await expect(row('lamps plain')).toContainText('Inbox')

  await row('lamps unverified').click()
  await page.getByRole('tab', { name: 'Reasons' }).click()
  await expect(
    page.getByText('The exception @lantern-guild.example does not count: sender not verified'),
  ).toBeVisible()

  await row('lamps stopped').click()
  await expect(
    page.getByText('Moved to Spam because rule “Lantern festival” found “lantern festival” in the text.'),
  ).toBeVisible()
  await expect(page.locator('mark').first()).toHaveText(/Lantern\s+Festival/)
  await accessible(page)

  await page.keyboard.press('1')
  await expect(row('lamps stopped')).toContainText('moved by Ines Varga')
  await row('lamps stopped').click()
  await expect(page.getByRole('article').getByText('wanted (assumed from a move)')).toBeVisible()
  await page.keyboard.press('w')
  await expect(row('lamps stopped')).toContainText('wanted')
  await row('lamps stopped').click()
  await expect(page.getByRole('article').getByText(/marked\s+wanted$/)).toBeVisible()
  await expect(page.getByRole('button', { name: 'Mark wanted W', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('article').getByText('wanted (assumed from a move)')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(row('lamps stopped')).toContainText('Spam')
  await expect(row('lamps stopped')).not.toContainText('moved by')
})

test('a worker sees only own mail, reads the organisation’s rules and cannot change them, and makes one of their own', async ({
  page,
}) => {
  await signIn(page, 'worker')
  await expect(page.getByRole('combobox', { name: 'Owner' })).toHaveCount(0)
  await page.getByRole('row').nth(1).click()
  await expect(page.getByRole('article')).toContainText('to Oskar Brandt')
  await page.goto(url('/rules/fee-demands'))
  await expect(page.getByText('This rule belongs to the organisation. You can propose changes')).toBeVisible()
  await expect(page.getByRole('button', { name: WORDS.save })).toHaveCount(0)
  await expect(page.getByRole('button', { name: 'Delete' })).toHaveCount(0)
  await page.goto(url('/rules/new'))
  await page.getByLabel('Words and phrases').fill('raffle')
  await saved(page, 'Raffle')
  await send({ from: 'fun@elsewhere.example', subject: 'a raffle', text: 'x', to: addressOf('worker') })
  await send({ from: 'fun@elsewhere.example', subject: 'a raffle', text: 'x', to: addressOf('reviewer') })
  await page.goto(url('/mail?words=raffle'))
  await countShown(page, 1)
  await expect(page.getByRole('row').nth(1)).toContainText('Spam')
})

test('a rule with a companion phrase, an exception and a named quarantine, also obfuscated spellings', async ({ page }) => {
  await signIn(page, 'admin', '/rules/new')
  await page.getByLabel('Words and phrases').fill('moon levy')
  await page.getByRole('button', { name: '+ More options' }).click()
  await page.getByRole('button', { name: '+ Match options' }).click()
  await choose(page, 'Spelling', 'also obfuscated')
  await page.getByRole('button', { name: '+ Only near other words' }).click()
  await page.getByLabel('Only near').fill('before noon')
  await page.getByLabel('Distance in words').fill('4')
  await page.getByRole('button', { name: '+ Add exception' }).click()
  await choose(page, 'Kind of condition', 'words or phrases')
  await page.getByLabel('Words and phrases').last().fill('no need to pay')
  await choose(page, 'Action', 'hold in quarantine…')
  await page.getByRole('button', { name: '+ Add quarantine' }).click()
  await page.getByLabel('Name of the new quarantine').fill('Levies')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByText('hold in quarantine “Levies”')).toBeVisible()
  await expect(page.getByText('has “moon levy” within 4 words of “before noon”, also obfuscated spellings')).toBeVisible()
  await accessible(page)
  await saved(page, 'Moon levy')

  const texts: Record<string, string> = {
    lookalike: 'Pay the mооn Ievy before noon.',
    invisible: 'Pay the mo\u200Bon l\u00ADevy before noon.',
    spaced: 'Pay: m o o n  l e v y before noon.',
    apart: 'Pay the moon levy. Much later, after many other words, comes before noon.',
    excepted: 'The moon levy before noon: no need to pay.',
  }
  for (const [subject, text] of Object.entries(texts))
    await send({ from: 'x@elsewhere.example', subject: `levy ${subject}`, text, utf8: true })
  await page.goto(url('/mail?words=levy'))
  const row = (subject: string) => page.getByRole('row').filter({ hasText: `levy ${subject}` })
  for (const held of ['lookalike', 'invisible', 'spaced']) await expect(row(held)).toContainText('Levies')
  for (const free of ['apart', 'excepted']) await expect(row(free)).toContainText('Inbox')
  await row('spaced').click()
  await expect(page.locator('mark').first()).toHaveText('m o o n  l e v y')
  await row('lookalike').click()
  await expect(page.locator('mark').first()).toHaveText('mооn Ievy')
  await row('invisible').click()
  await expect(page.locator('mark').first()).toHaveText('mo\u200Bon l\u00ADevy')
})
