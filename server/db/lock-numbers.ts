/** Keys of our PostgreSQL advisory locks (PostgreSQL manual, 13.3.5), by what each one guards. */
export const LOCK_NUMBERS = {
  policy: 0x50_be_01,
  setup: 0x50_be_02,
  demo: 0x50_be_03,
  settings: 0x50_be_04,
  users: 0x50_be_05,
  deletion: 0x50_be_06,
  reviewRank: 0x50_be_07,
  migration: 0x50_be_12,
  /** The first of two numbers; the second is the pool of workers, hashed. */
  job: 0x50_be_30,
} as const
