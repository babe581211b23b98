// Limits that the interface states before they are exceeded, and the server keeps.

/** Characters of a password, not counting spaces. NIST SP 800-63B asks for length, and for nothing else. */
export const MIN_PASSWORD = 12
/** Minutes for which deactivating a user can be undone. */
export const UNDO_MINUTES = 60
/** Messages whose mistakes are fixed at once. */
export const MAX_FIXED = 200
