// Messages signed by the demo's keys, as its senders sign them.
import { dkimSign } from 'mailauth/lib/dkim/sign.js'
import { RSA_KEY } from '../../demo/keys'
import { SELECTORS } from '../../demo/zone'

/** The message with a signature of that domain on top; its lines end in CRLF, as SMTP transfers them. */
export async function signed(message: string, domain = 'quayline.example', selector = SELECTORS.rsa): Promise<string> {
  const lines = message.replace(/\r?\n/g, '\r\n')
  const { signatures } = await dkimSign(Buffer.from(`${lines}\r\n`), {
    signTime: new Date('2026-11-24T09:00:00Z'),
    signatureData: [
      { signingDomain: domain, selector, privateKey: RSA_KEY, algorithm: 'rsa-sha256', canonicalization: 'relaxed/relaxed' },
    ],
  } as never)
  return signatures + lines
}
