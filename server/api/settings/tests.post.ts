import { Joi } from '#core'
import { COMPUTES, defineRoute } from '../../access/route'
import { testAddress, testTrace, type TraceTest } from '../../users/trust-tests'

const network = Joi.string().max(60)
const body = Joi.object<{ address?: string, trace?: TraceTest }, true>({
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
}).xor('address', 'trace')

export default defineRoute({ body, version: COMPUTES }, ({ body: { address, trace } }) =>
  (trace ? testTrace(trace) : testAddress(address!)))
