import AxeBuilder from '@axe-core/playwright'
import { expect, type Page } from '@playwright/test'
import { handOver, plainMessage, smtp } from '../../server/support/installation'

export const url = (path: string) => `${process.env.GATE_URL}${path}`
export const WORKER = 'worker@saltmere-harbour.example'

export async function signIn(page: Page, account: string) {
  // Asked for Mail, as a reviewer would begin in Review, and look at a message there.
  await page.goto(url('/sign-in?to=/mail'))
  await page.getByLabel('Address').fill(`${account}@saltmere-harbour.example`)
  await page.getByLabel('Password').fill('harbour-demo')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page).toHaveURL(/\/mail/)
  await expect(page.getByRole('row').nth(1)).toBeVisible()
}

/** Sends one message by real SMTP; through the stand-in relay it is verified. */
export async function send(over: {
  from: string
  subject: string
  text: string
  relay?: boolean
  to?: string
  utf8?: boolean
}) {
  const domain = over.from.split('@')[1]!
  const trace = over.relay
    ? `Authentication-Results: relay.saltmere-harbour.example; dmarc=pass header.from=${domain}\nReceived: from mail.${domain} `
    + `(mail.${domain} [192.0.2.4]) by relay.saltmere-harbour.example; Tue, 24 Nov 2026 09:00:00 +0000\n`
    : ''
  const replies = await smtp(
    Number(process.env.GATE_SMTP),
    handOver(over.from, [over.to ?? WORKER], trace + plainMessage(over)),
    over.relay ? '127.0.0.2' : '127.0.0.1',
  )
  expect(replies.at(-1)).toMatch(/^250/)
}

/** Chooses in one of our selects by its name. */
export async function choose(page: Page, select: string, option: string) {
  await page.getByRole('combobox', { name: select }).last().click({ force: true })
  await page.getByRole('option', { name: option, exact: true }).locator('visible=true').click()
}

/** No serious accessibility violation (axe, WCAG 2.2 A and AA). */
export async function accessible(page: Page) {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(
    violations
      .filter(v => v.impact === 'serious' || v.impact === 'critical')
      .map(
        v =>
          `${v.id}: ${v.nodes
            .map(n => n.target.join(' '))
            .slice(0, 3)
            .join(' | ')}`,
      ),
  ).toEqual([])
}
