export * from './names'
export * from './sentences'
export * from './reasons'
