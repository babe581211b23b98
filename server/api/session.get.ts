import { defineRoute } from '../access/route'
import { shownPerson } from '../users/people'
import { sessionPerson } from '../users/session'

export default defineRoute({}, async ({ event }) => {
  const person = await sessionPerson(event)
  return {
    person: person ? shownPerson(person) : null,
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
