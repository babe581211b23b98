export * from './types'
export { decide } from './decide'
export { settle, hazardOf, effectiveStop, type Settlement } from './settle'
