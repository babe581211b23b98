export * from './domain'
export * from './address'
