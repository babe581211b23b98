import { Joi } from '#core'
import { clientAddress } from '../platform/client-address'
import { ADDS, defineRoute } from '../access/route'
import { limitSignIn, forgetFailures } from '../access/sign-in-limit'
import { shownPerson, signIn } from '../users/people'
import { Problem } from '../platform/problem'

const body = Joi.object<{ email: string, password: string }, true>({
  email: Joi.string()
    .trim()
    .max(320)
    .required()
    .messages({ 'any.required': 'enter your address', 'string.empty': 'enter your address' }),
  password: Joi.string()
    .max(1000)
    .required()
    .messages({ 'any.required': 'enter your password', 'string.empty': 'enter your password' }),
})

export default defineRoute(
  { body, version: ADDS },
  async ({ event, body: { email, password } }) => {
    const client = clientAddress(event)
    await limitSignIn(client, email)
    const person = await signIn(email, password)
    if (!person)
      throw new Problem(
        401,
        'Not signed in',
        'Address or password is not correct. Check both; the password is case-sensitive.',
      )
    await forgetFailures(client, email)
    await replaceUserSession(event, { user: { id: person.id, epoch: person.epoch } })
    return { person: shownPerson(person) }
  },
)
