// The public mail providers that ship: the list can be saved as it is, and names what people have mailboxes at.
import { expect, it } from 'vitest'
import { domainToAscii, isMailDomain } from '#core'
import { PUBLIC_PROVIDERS } from '../../../server/policy/public-providers'

it('are domains that Settings take: with one that is none nobody could save the list', () => {
  expect(PUBLIC_PROVIDERS.filter(domain => domainToAscii(domain) !== domain || !isMailDomain(domain))).toEqual([])
  expect(PUBLIC_PROVIDERS.length).toBeGreaterThan(300)
})
it('hold the large ones, and no addresses for a day: who blocks those is not asked whether they mean it', () => {
  expect(PUBLIC_PROVIDERS).toEqual(expect.arrayContaining(['gmail.com', 'outlook.com', 'yahoo.com', 'gmx.de', 'web.de', 'proton.me', 'orange.fr', 'mailbox.org']))
  for (const none of ['mailinator.com', '10minutemail.com', 'guerrillamail.com', 'yopmail.com', 'example.com']) expect(PUBLIC_PROVIDERS).not.toContain(none)
})
