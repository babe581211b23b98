export * from './mbox'
export * from './delivered'
export * from './encoded-words'
