import { Joi } from '#core'
import { forgetFailures, limitSignIn } from '../../access/sign-in-limit'
import { defineRoute } from '../../access/route'
import { changePassword } from '../../users/people'
import { passwordField } from '../../users/schemas'
import { clientAddress } from '../../platform/client-address'

const body = Joi.object<{ current: string, password: string }, true>({
  current: Joi.string().max(1000).required().messages({ 'string.empty': 'enter your current password' }),
  password: passwordField.required(),
})

const version = { none: 'the password that one has now is said and compared' }

export default defineRoute({ body, version }, async ({ event, actor, body: { current, password } }) => {
  const client = clientAddress(event)
  const account = actor.addresses[0] ?? actor.id
  // Guessed here as at the door.
  await limitSignIn(client, account)
  const epoch = await changePassword(actor, current, password)
  await forgetFailures(client, account)
  // All other sessions have ended; this one goes on.
  await replaceUserSession(event, { user: { id: actor.id, epoch } })
  return { changed: true }
})
