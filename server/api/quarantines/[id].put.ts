import { defineRoute, idParam } from '../../access/route'
import { quarantineForm } from '../../policy/quarantine-form'
import { setQuarantine } from '../../policy/quarantine-settings'
import { renameQuarantine } from '../../policy/quarantines'

export default defineRoute(
  { params: idParam, body: quarantineForm, version: 'body.version' },
  async ({ asker, params: { id }, body: { name, version, ...settings } }) =>
    name === undefined
      ? { id, ...(await setQuarantine(asker, id, settings, { version })) }
      : renameQuarantine(asker, id, name, version),
)
