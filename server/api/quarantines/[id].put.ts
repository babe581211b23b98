import { defineRoute, idParam } from '../../access/route'
import { quarantineForm } from '../../policy/quarantine-form'
import { setQuarantine } from '../../policy/quarantine-settings'
import { renameQuarantine } from '../../policy/quarantines'

export default defineRoute(
  { params: idParam, body: quarantineForm, version: 'body.version' },
  async ({ actor, params: { id }, body: { name, version, ...settings } }) =>
    name === undefined
      ? { id, ...(await setQuarantine(actor, id, settings, { version })) }
      : renameQuarantine(actor, id, name, version),
)
