export * from './mbox'
export * from './delivered'
