import { domainToAscii, isMailDomain, Joi } from '#core'
import type { CustomHelpers } from 'joi'
import { COMPUTES, defineRoute } from '../../access/route'
import { testAddress, testTrace, type TraceTest } from '../../users/trust-tests'
import { testDomain, testSender, type SenderTest } from '../../verification/sender-tests'

const network = Joi.string().max(60)
const domain = (text: string, helpers: CustomHelpers<string>) => {
  const ascii = domainToAscii(text)
  return ascii && isMailDomain(ascii) ? ascii : helpers.message({ custom: `“${text}” is not a domain; write it as quayline.example` })
}
const body = Joi.object<{ address?: string, trace?: TraceTest, sender?: SenderTest, domain?: string }, true>({
  domain: Joi.string().trim().min(1).max(255).custom(domain).messages({ 'string.empty': 'enter a domain' }),
  sender: Joi.object({
    source: Joi.string().min(1).max(1_000_000).required().messages({ 'string.empty': 'paste the source of a message' }),
    client: Joi.string().trim().ip({ cidr: 'forbidden' }).allow('').required()
      .messages({ 'string.ip': 'enter the IP address of the server that sent it, or nothing' }),
    helo: Joi.string().trim().max(255).allow('').required(),
    mailFrom: Joi.string().trim().max(320).allow('').required(),
  }),
  address: Joi.string().trim().min(1).max(320).messages({ 'string.empty': 'enter an address' }),
  trace: Joi.object({
    client: Joi.string()
      .trim()
      .ip({ cidr: 'forbidden' })
      .required()
      .messages(
        { 'string.ip': 'enter the IP address of the relay', 'string.empty': 'enter the IP address of the relay' },
      ),
    headers: Joi.string()
      .trim()
      .min(1)
      .max(60_000)
      .required()
      .messages({ 'string.empty': 'paste the header of a message, as its source shows it' }),
    relays: Joi.array()
      .items(Joi.object({ network: network.required(), authservId: Joi.string().max(255).required() }))
      .max(200)
      .required(),
    ownNetworks: Joi.array().items(network).max(200).required(),
  }),
}).xor('address', 'trace', 'sender', 'domain')

export default defineRoute({ body, most: 'changes', version: COMPUTES }, ({ body: { address, trace, sender, domain } }) => {
  if (trace) return testTrace(trace)
  if (sender) return testSender(sender)
  return domain === undefined ? testAddress(address!) : testDomain(domain)
})
