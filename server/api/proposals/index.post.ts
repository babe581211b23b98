import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { copiesField } from '../../impact/save-form'
import { propose, type ProposalForm } from '../../requests/proposals'
import { changesField, changesOf } from '../../policy/changes-form'

const body = Joi.object<Omit<ProposalForm, 'changes'> & { changes: unknown[] }, true>({
  base: Joi.number().integer().min(0).max(2_147_483_647).required(),
  changes: changesField,
  note: Joi.string().trim().allow('').max(2000).default(''),
  ids: copiesField.default([]),
})

export default defineRoute({ body, version: 'body.base' }, async ({ actor, body: { changes, ...form } }) =>
  propose(actor, { ...form, changes: await changesOf(changes) }))
