// The demo's office, as the tests name its people.

/** Domain of the demo's office. */
export const OURS = 'saltmere-harbour.example'
/** Password of everybody in the demo. */
export const PASSWORD = 'harbour-demo'

export const addressOf = (name: string) => `${name}@${OURS}`
/** The id of a person, as the database and the API have it. */
export const personOf = (name: string) => `${name}-${OURS}`
/** The owner of a person's own lists and rules. */
export const ownerOf = (name: string) => `person:${personOf(name)}`
