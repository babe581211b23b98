export * from './address'
export * from './message'
export * from './policy'
export * from './decide'
