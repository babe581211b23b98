// A forged invoice in the browser: what it claims gains it nothing, and each way to let mail in is followed to the next real message.
import { expect, type Page } from '@playwright/test'
import { changed, holding } from '../support/clauses'
import { until } from '../support/wait'
import { accessible, send, signIn, undoByKey, url } from './support/helpers'
import { sessionOf, test } from './support/test'

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const DUTY = 'hemp duty'
const PARTNER = 'bills@rope-walk.example'
const admin = () => sessionOf('admin')
const message = (page: Page) => page.getByRole('article', { name: 'Message', exact: true })
const heading = (page: Page) => message(page).getByRole('heading')
const question = (page: Page) => page.getByRole('alertdialog', { name: 'The sender may be forged' })
const copyOf = async (subject: string): Promise<Row | undefined> =>
  (await (await admin())('GET', `/api/copies?words=${encodeURIComponent(subject)}`)).body.items[0]
const laneOf = async (subject: string) => (await copyOf(subject))?.lane as string
const lies = (subject: string, lane: string) => until(`“${subject}” is in ${lane}`, async () => (await laneOf(subject)) === lane)
/** Sends a message, and says where it ends. */
async function arrives(letter: Parameters<typeof send>[0]): Promise<string> {
  await send(letter)
  await until(`“${letter.subject}” is there`, async () => (await copyOf(letter.subject!)) !== undefined)
  return laneOf(letter.subject!)
}
const bill = (subject: string, auth: 'pass' | 'fail') => ({ from: PARTNER, subject, text: `the ${DUTY} is due`, relay: true, auth })
const ready = (page: Page) => expect(message(page)).toHaveAttribute('aria-busy', 'false')

/** Three bills of a partner that a rule holds, one of them marked wanted, and a forged one. */
async function billsAreHeld() {
  if (await copyOf('rope bill elsewhere')) return
  await changed(await admin(), holding('hemp', DUTY, 'general', { name: 'Hemp duty' }))
  for (const n of ['first', 'second', 'third']) await arrives(bill(`rope bill ${n}`, 'pass'))
  await (await admin())('POST', '/api/copies/judgement', { ids: [(await copyOf('rope bill first'))!.id], versions: 'any', value: 'wanted' })
  await arrives(bill('rope bill elsewhere', 'fail'))
}

test('it is never first, not among “all”, and let in only after what it claims and what was found were seen', async ({ page }) => {
  await billsAreHeld()
  await signIn(page, 'reviewer', '/review?lane=quarantine&quarantine=general&by=clause')
  await page.getByLabel('Search messages to review').fill('rope bill')
  await expect(page.getByText('4 to review in 1 group')).toBeVisible()
  await page.getByRole('button', { name: /Hemp duty/ }).click()
  await expect(page.getByRole('button', { name: 'Select all 4 (1 not verified)' })).toBeVisible()
  await ready(page)
  await expect(heading(page)).not.toHaveText('rope bill elsewhere')
  await expect(message(page)).toContainText('Likely a mistake: 1 of 1 marked message from this sender was wanted')
  // A pressed button keeps its own Space.
  await page.mouse.click(5, 5)
  await page.keyboard.press(' ')
  await expect(page.getByRole('button', { name: '3 selected' })).toBeVisible()
  await expect(page.getByText('Also the 1 message not verified')).toBeVisible()
  await page.keyboard.press('w')
  for (const n of ['first', 'second', 'third']) await lies(`rope bill ${n}`, 'inbox')
  // What is left is the forged one.
  await expect(heading(page)).toHaveText('rope bill elsewhere')
  await ready(page)
  expect(await laneOf('rope bill elsewhere')).toBe('quarantine')
  await expect(message(page)).toContainText('authentication failed: the From may be forged')
  await page.keyboard.press('w')
  await expect(question(page)).toContainText('3 verified messages from this address marked wanted')
  await expect(question(page)).toContainText('authentication failed (DMARC')
  await accessible(page)
  // The same key does not confirm what it has just asked about.
  await page.keyboard.press('w')
  await page.keyboard.press('Escape')
  await expect(question(page)).toHaveCount(0)
  expect(await laneOf('rope bill elsewhere')).toBe('quarantine')
  await page.keyboard.press('w')
  await question(page).getByRole('button', { name: 'Release it anyway' }).click()
  await lies('rope bill elsewhere', 'inbox')
  await undoByKey(page)
  await lies('rope bill elsewhere', 'quarantine')
})

test('no change is suggested from it, and no exception made: only this one is let in; from the real one the next is', async ({
  page,
}) => {
  await billsAreHeld()
  await signIn(page, 'admin', `/review?lane=quarantine&quarantine=general&by=clause&words=${encodeURIComponent('rope bill elsewhere')}`)
  await expect(heading(page)).toHaveText('rope bill elsewhere')
  await ready(page)
  await page.keyboard.press('m')
  await expect(page.getByText('Any change of lists or rules would also let in mail that nothing verifies.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Release only this message' })).toBeVisible()
  await page.getByRole('link', { name: 'Make an exception for mail like this' }).first().click()
  await expect(page.getByText('Nothing verified the sender of this message.', { exact: false })).toBeVisible()
  await expect(page.getByText('the sender is bills@rope-walk.example')).toHaveCount(0)
  await page.getByRole('link', { name: 'Open the message to let in only this one' }).click()
  await expect(page.getByRole('article', { name: 'rope bill elsewhere' })).toBeVisible()

  expect(await arrives(bill('rope bill fourth', 'pass'))).toBe('quarantine')
  await page.goto(url(`/review?lane=quarantine&quarantine=general&by=clause&words=${encodeURIComponent('rope bill fourth')}`))
  await expect(heading(page)).toHaveText('rope bill fourth')
  await ready(page)
  await page.keyboard.press('m')
  const fix = page.getByRole('listitem').filter({ hasText: `Add an exception for ${PARTNER}, if verified, to rule “Hemp duty”` })
  await fix.getByRole('button', { name: 'Apply' }).click()
  await lies('rope bill fourth', 'inbox')
  expect(await arrives(bill('rope bill fifth', 'pass'))).toBe('inbox')
  expect(await arrives(bill('rope bill fifth forged', 'fail'))).toBe('quarantine')
})

test('an entry that is removed brings back what it stopped, once it was seen what that lets in, and the next message comes', async ({ page }) => {
  const from = 'bell@ringers.example'
  await changed(await admin(), { type: 'put', kind: 'entries', list: 'speculators', entries: [{ kind: 'address', value: from }] })
  for (const n of ['one', 'two', 'three']) expect(await arrives({ from, subject: `bell practice ${n}`, relay: true })).toBe('spam')
  const { id } = (await copyOf('bell practice three'))!
  await (await admin())('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: 'unwanted' })
  await signIn(page, 'admin', '/lists/speculators')
  await page.getByLabel('Search entries').fill(from)
  await page.getByRole('row').filter({ hasText: from }).getByRole('checkbox').check()
  await expect(page.getByRole('checkbox', { name: 'Also move 2 stopped messages' })).toBeChecked()
  await expect(page.getByText('1 message marked unwanted is not moved.')).toBeVisible()
  await page.getByRole('button', { name: 'Remove 1' }).click()
  // It lets in mail like the one that somebody marked unwanted.
  await expect(page.getByText('It would let in 3 stopped messages, 1 of them marked unwanted.')).toBeVisible()
  await page.getByRole('button', { name: 'Save anyway' }).click()
  await lies('bell practice one', 'inbox')
  await lies('bell practice two', 'inbox')
  expect(await laneOf('bell practice three')).toBe('spam')
  expect(await arrives({ from, subject: 'bell practice four', relay: true })).toBe('inbox')
})

test('a rule that is disabled brings back what it had put in the bin, the tick is set already; the next message comes', async ({
  page,
}) => {
  const id = 'binning'
  await changed(await admin(), {
    type: 'put',
    kind: 'rule',
    value: {
      id, name: 'Tallow', owner: 'organisation', state: 'enabled', when: { phrases: ['tallow candle'] }, except: [],
      claims: [{ stop: { to: 'bin' } }],
    },
  })
  const from = 'wick@chandlery.example'
  expect(await arrives({ from, subject: 'tallow candle one', relay: true })).toBe('bin')
  expect(await arrives({ from: 'x@strangers.example', subject: 'tallow candle two' })).toBe('bin')
  await signIn(page, 'admin', `/rules/${id}`)
  await page.getByText('disabled', { exact: true }).click()
  await expect(page.getByRole('checkbox', { name: 'also move 2 stopped messages, 1 of them not verified' })).toBeChecked()
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await lies('tallow candle one', 'inbox')
  await lies('tallow candle two', 'inbox')
  expect(await arrives({ from, subject: 'tallow candle three', relay: true })).toBe('inbox')
})

test('a ready rule stops who claims your own domain: from Settings to the next forged message', async ({ page }) => {
  await signIn(page, 'admin', '/settings/domains')
  const missing = page.getByRole('listitem').filter({ hasText: 'claims to come from one of your own domains' })
  await missing.getByRole('link', { name: 'Review and save the rule' }).click()
  await expect(page.getByText('Check the impact: services that send in your name', { exact: false })).toBeVisible()
  await expect(page.getByLabel('Impact on existing mail')).not.toContainText('Counting')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  // It affects many, and is asked about, or it is saved at once.
  const anyway = page.getByRole('button', { name: 'Save anyway' })
  await expect(page.getByText(/“Own domain in From, not verified” saved/).or(anyway)).toBeVisible()
  if (await anyway.isVisible()) await anyway.click()
  await expect(page.getByText(/“Own domain in From, not verified” saved/)).toBeVisible()
  const own = { from: 'director@saltmere-harbour.example', relay: true }
  expect(await arrives({ ...own, subject: 'from the director, forged', auth: 'fail' })).toBe('quarantine')
  expect(await arrives({ ...own, subject: 'from the director, verified', auth: 'pass' })).toBe('inbox')
  await undoByKey(page)
})

test('a worker sees how much is held for them; a request keeps its place, and the message stays shown', async ({ page }) => {
  await billsAreHeld()
  await arrives(bill('rope bill, one more', 'pass'))
  await signIn(page, 'worker')
  const { waiting } = (await (await sessionOf('worker'))('GET', '/api/review/count')).body
  expect(waiting).toBeGreaterThan(0)
  const station = page.getByRole('navigation', { name: 'Main menu' }).getByRole('listitem').filter({ hasText: 'Review' })
  await expect(station).toContainText(String(waiting))
  await page.goto(url(`/review?lane=quarantine&quarantine=general&by=clause&words=${encodeURIComponent('rope bill')}`))
  await expect(heading(page)).toHaveText(/^rope bill/)
  await ready(page)
  const first = (await heading(page).textContent())!
  await page.keyboard.press('ArrowRight')
  await expect(heading(page)).not.toHaveText(first)
  await ready(page)
  const shown = (await heading(page).textContent())!
  await page.getByLabel('Note to the reviewer').fill('mine, please')
  await page.getByRole('button', { name: 'Request release' }).click()
  await expect(message(page)).toContainText('You requested its release: “mine, please”')
  await expect(heading(page)).toHaveText(shown)
  await undoByKey(page)
})
