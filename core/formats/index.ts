export * from './mbox'
export * from './delivered'
export * from './encode-words'
