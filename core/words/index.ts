export { entryWords, oneOf, quoted, withVisibleControls } from '../kinds'
export * from './names'
export * from './sentences'
export * from './reasons'
