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
    .messages({ 'any.required': 'your address is missing', 'string.empty': 'your address is missing' }),
  password: Joi.string()
    .max(1000)
    .required()
    .messages({ 'any.required': 'the password is missing', 'string.empty': 'the password is missing' }),
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
        'This address and password do not belong together. Check both; capitals count in the password.',
      )
    await forgetFailures(client, email)
    await replaceUserSession(event, { user: { id: person.id, epoch: person.epoch } })
    return { person: shownPerson(person) }
  },
)
