import { Joi } from '#core'
import type { MemberForm } from './members'
import { emailField, nameField, roleField, userVersionField } from './schemas'

// What is said of somebody.
const fields = {
  name: nameField.required(),
  role: roleField.required(),
  addresses: Joi.array()
    .items(emailField)
    .min(1)
    .max(100)
    .unique((a: string, b: string) => a.toLowerCase() === b.toLowerCase())
    .required()
    .messages(
      { 'array.min': 'enter at least one address; a user without an address gets no mail', 'array.unique': 'an address is entered twice' },
    ),
  shared: Joi.array().items(emailField).max(100).default([]),
  departments: Joi.array().items(Joi.string().max(80)).max(100).default([]),
}
/** A user who is added. */
export const memberForm = Joi.object<MemberForm, true>(fields)
/** The same, of a user as they were seen. */
export const changedMemberForm = Joi.object<MemberForm & { version: number }, true>({ ...fields, version: userVersionField })
