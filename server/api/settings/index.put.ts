import { defineRoute } from '../../access/route'
import { mustHaveSeenDeleted } from '../../retention/shortened'
import { changeSettings } from '../../users/settings'
import { settingsForm } from '../../users/settings-form'

export default defineRoute({ body: settingsForm, version: 'body.version' }, ({ actor, body }) =>
  changeSettings(actor, body, mustHaveSeenDeleted))
