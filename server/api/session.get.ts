import { defineRoute } from '../http/route'
import { sessionPerson } from '../http/session'

export default defineRoute({}, async ({ event }) => {
  const person = await sessionPerson(event)
  return {
    person:
      person ? { id: person.id, name: person.name, role: person.role, addresses: person.addresses } : null,
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
