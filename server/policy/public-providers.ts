import common from 'email-providers/common.json'

// The package counts these in: addresses for a day, registries under whose domains anybody registers, and placeholders (RFC 2606, 3).
const NO_PROVIDERS = new Set([
  '10minutemail.com', '21cn.com', 'bugmenot.com', 'chacuo.net', 'cu.cc', 'ddnsfree.com', 'dynu.net', 'emailondeck.com', 'example.com',
  'f5.si', 'fr.nf', 'guerrillamail.com', 'mail-tester.com', 'mailinator.com', 'msk.ru', 'pe.hu', 'pp.ua', 'privacy.net', 'spb.ru', 'temp-mail.org',
  'web.id', 'yopmail.com', 'yourdomain.com', 'za.com', 'zp.ua',
])

/** Domains at which anybody can have a mailbox, until an administrator sets others. Source: the npm package email-providers. */
export const PUBLIC_PROVIDERS: readonly string[] = common.filter(domain => !NO_PROVIDERS.has(domain)).sort()
