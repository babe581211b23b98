export * from './mbox'
