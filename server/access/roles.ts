/** What somebody may do beyond their own lists, rules and mail. */
export const PERMISSIONS = [
  /** Change what is the organisation's and the departments'; speak words that only an administrator speaks. */
  'change all lists and rules',
  /** Keep as much as an organisation needs, and hand in large bodies. */
  'use large limits',
  /** See who is who, and whom we believe. */
  'view settings',
  /** Say who is here, what is ours, and whom we believe. */
  'change settings',
  /** Read everybody's mail. Whoever opens another's is on record. */
  'read all mail',
  /** Read what quarantines hold. */
  'read held mail',
  /** Put into a quarantine, and let out of it. */
  'hold and release',
  /** Take back what others did. */
  'undo others’ changes',
  /** Try a message as any reader here. */
  'test as anyone',
  /** See what jobs and findings tell of everybody's mail. */
  'view counts of all mail',
] as const
export type Permission = (typeof PERMISSIONS)[number]

export const ROLES = ['administrator', 'reviewer', 'worker'] as const
export type Role = (typeof ROLES)[number]

export function isRole(name: string): name is Role {
  return ROLES.some(role => role === name)
}

/** What each role may. A role that is not named for a power does not have it. */
const HAS: Record<Role, readonly Permission[]> = {
  administrator: PERMISSIONS,
  reviewer: ['read held mail', 'hold and release'],
  worker: [],
}

/** Who is asking. */
export interface Actor {
  id: string
  name: string
  role: Role
  addresses: string[]
  /** The same in the form in which they are compared: what came to one of them while several people shared it is theirs too. */
  mailboxes: string[]
  departments: string[]
  epoch: number
  held: HeldAccess
}

/** What of held mail is somebody's to see and to let out, besides what their role says. */
export interface HeldAccess {
  /** Quarantines that others review: those that name their reviewers, and not this one. */
  othersReview: string[]
  /** Quarantines of which recipients do not see what is held for them. */
  unseen: string[]
  /** Those out of which recipients may release their own. */
  ownRelease: string[]
  /** Those whose recipients cannot request release. */
  noRequests: string[]
}

export const NO_EXCEPTIONS: HeldAccess = { othersReview: [], unseen: [], ownRelease: [], noRequests: [] }

/** The command line beside a running installation, which is nobody's in particular. */
export const COMMAND_LINE: Actor = {
  id: 'command-line',
  name: 'the command line',
  role: 'administrator',
  addresses: [],
  mailboxes: [],
  departments: [],
  epoch: 0,
  held: NO_EXCEPTIONS,
}

/** Whether somebody may do that. */
export function can({ role }: Pick<Actor, 'role'>, permission: Permission): boolean {
  return HAS[role].includes(permission)
}

/** All that a role may. */
export function permissionsOf(role: Role): readonly Permission[] {
  return HAS[role]
}
