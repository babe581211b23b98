import { instant, Joi, type Owner } from '#core'
import type { NewListPaste } from './list-entries'
import type { ListForm, NewList } from './lists'
import type { AssignmentForm } from './assignments'

const form = {
  name: Joi.string()
    .trim()
    .min(1)
    .max(120)
    .required()
    .messages({ 'string.empty': 'enter a name for the list', 'any.required': 'enter a name for the list' }),
  usualSide: Joi.string().valid('allow', 'block').default('block'),
  enabled: Joi.boolean().default(true),
}
// Its inside is checked by the policy's own schema.
const assignment = Joi.object().unknown(true)
const owner = Joi.string().max(100)
const version = Joi.number().integer().required()
const lines = Joi.alternatives().try(
  Joi.string().allow('').max(25_000_000),
  Joi.array()
    .items(Joi.string().max(320))
    .max(100_000)
    .custom((l: string[]) => l.join('\n')),
)

export const newListBody = Joi.object<NewList>({
  ...form,
  owner: owner.default('organisation'),
  assignment: assignment.allow(null).default(null),
  entries: lines.default(''),
  below: Joi.boolean().default(false),
})
/** What would become of lines in a list that is not made yet. */
export const newListPasteBody = Joi.object<NewListPaste, true>({
  owner: owner.required(),
  side: Joi.string().valid('allow', 'block').required(),
  text: Joi.string().max(25_000_000).required(),
  below: Joi.boolean().default(false),
})
export const listBody = Joi.object<ListForm & { version: number }, true>({ ...form, version })
export const newAssignmentBody = Joi.object<{ owner: Owner, assignment: AssignmentForm }>({
  owner: owner.required(),
  assignment: assignment.required(),
})
export const assignmentBody = Joi.object<{ assignment: AssignmentForm, version: number }>({ assignment: assignment.required(), version })
export const versionQuery = Joi.object<{ version: number }, true>(
  { version: version.messages({ 'any.required': 'name the version that you read: ?version=N' }) },
)

export const entryFields = {
  note: Joi.string().allow('').max(500),
  expires: instant,
}
