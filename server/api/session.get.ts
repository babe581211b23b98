import { defineRoute } from '../http/route'
import { readSession } from '../http/session'
import { findPerson } from '../services/people'

export default defineRoute({}, async ({ event }) => {
  const user = await readSession(event)
  const person = user ? await findPerson(user.id) : null
  return {
    person:
      person && person.epoch === user!.epoch ? { id: person.id, name: person.name, role: person.role, addresses: person.addresses } : null,
    // Shown on the sign-in page of the demo only.
    demo:
      process.env.SOBER_GATE_DEMO === '1'
        ? {
            accounts: ['admin@saltmere-harbour.example', 'reviewer@saltmere-harbour.example', 'worker@saltmere-harbour.example'],
            password: 'harbour-demo',
          }
        : null,
  }
})
